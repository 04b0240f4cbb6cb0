// The log of jacinth-cli: where it is, what stands in it, and that it never gets in the way.
#include <gtest/gtest.h>

#include <cstdlib>

#include "test/cli_runner.h"

namespace jacinth::test {
namespace {

class CliLog : public ::testing::Test {
  protected:
    CliLog() : folder("log") {
        if (const char* before = std::getenv("XDG_STATE_HOME")) before_ = before;
        ::setenv("XDG_STATE_HOME", (folder / "state").c_str(), 1);
        write(folder / "a.csv", "time,K 1/a\n2026-03-01,1\n");
    }
    ~CliLog() override {
        if (before_.empty())
            ::unsetenv("XDG_STATE_HOME");
        else
            ::setenv("XDG_STATE_HOME", before_.c_str(), 1);
    }
    std::string logged() const {
        std::ifstream file(folder / "state/jacinth/jacinth-cli.log");
        return {std::istreambuf_iterator<char>(file), {}};
    }
    Folder folder;
    std::string before_;
};

TEST_F(CliLog, HoldsEachCommandAndWhyItFailed) {
    ASSERT_EQ(run({"import", folder / "s.jacinth", folder / "a.csv"}).code, 0);
    const Said wrong = run({"read", folder / "s.jacinth", "--tag", "K 1/b"});
    EXPECT_EQ(wrong.code, 1);
    const std::string log = logged();
    EXPECT_NE(log.find("info import " + folder.path()), std::string::npos) << log;
    EXPECT_NE(log.find("warning there is no tag `K 1/b`"), std::string::npos) << log;
    EXPECT_EQ(log.find("debug"), std::string::npos);
    EXPECT_EQ(std::count(log.begin(), log.end(), '\n'), 3);
}

TEST_F(CliLog, VerboseSaysAllOfItOnStandardErrorAndLeavesTheOutputAlone) {
    ASSERT_EQ(run({"import", folder / "s.jacinth", folder / "a.csv"}).code, 0);
    const Said quiet = run({"tags", folder / "s.jacinth", "--json"});
    const Said before = run({"--verbose", "tags", folder / "s.jacinth", "--json"});
    const Said after = run({"tags", folder / "s.jacinth", "--json", "--verbose"});
    EXPECT_TRUE(quiet.err.empty()) << quiet.err;
    for (const Said* said : {&before, &after}) {
        EXPECT_EQ(said->code, 0);
        EXPECT_EQ(said->out, quiet.out);
        EXPECT_NE(said->err.find("debug done in "), std::string::npos) << said->err;
    }
}

TEST_F(CliLog, WhereItCannotBeWrittenTheCommandRunsAllTheSame) {
    write(folder / "file", "no folder");
    ::setenv("XDG_STATE_HOME", (folder / "file").c_str(), 1);
    const Said said = run({"import", folder / "s.jacinth", folder / "a.csv"});
    EXPECT_EQ(said.code, 0) << said.err;
    EXPECT_TRUE(said.err.empty()) << said.err;
}

TEST_F(CliLog, ANameWithALineBreakIsOneLine) {
    EXPECT_EQ(run({"tags", folder / "x\ny.jacinth"}).code, 1);
    const std::string log = logged();
    EXPECT_EQ(std::count(log.begin(), log.end(), '\n'), 2) << log;
}

}  // namespace
}  // namespace jacinth::test
