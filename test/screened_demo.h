// The demo plant with runs, golden runs and limits as the README chooses them, screened.
#pragma once

#include <fcntl.h>
#include <gtest/gtest.h>
#include <sys/file.h>
#include <unistd.h>

#include <fstream>
#include <functional>

#include "store/study.h"
#include "test/cli_runner.h"

namespace jacinth::test {

/// A file beside the demo study that several tests need: made by the first that asks, again once the demo
/// study or the program is newer. Each test is a process of its own, so a lock keeps two from making it at
/// once.
inline std::string madeOnce(const std::string& name, const std::function<void(const std::string&)>& make) {
    const std::string path = std::string(JACINTH_DEMO_FOLDER) + "/" + name;
    const int lock = ::open((path + ".lock").c_str(), O_CREAT | O_RDWR, 0644);
    EXPECT_GE(lock, 0);
    ::flock(lock, LOCK_EX);
    const auto madeAfter = [&](const std::string& other) {
        return fs::exists(path) && fs::last_write_time(path) > fs::last_write_time(other);
    };
    if (!madeAfter(std::string(JACINTH_DEMO_FOLDER) + "/demo.jacinth") || !madeAfter(JACINTH_CLI)) {
        fs::remove(path + ".new");
        make(path + ".new");
        fs::rename(path + ".new", path);
    }
    ::close(lock);
    return path;
}

inline void makeScreenedDemo(const std::string& path) {
    copyDemo(path);
    const auto done = [](const std::vector<std::string>& command) {
        const Said said = run(command);
        ASSERT_EQ(said.code, 0) << said.err;
    };
    done({"runs", "find", path, "--track", "Runs", "--where", "@kiln_step is not \"Idle\"", "--least", "1h"});
    done({"golden", "set", path, "--track", "Runs", "--where",
          "load between 41 and 43 and max(@air_on_temp) < 86.5 and share(@burner_mode is \"Manual\") = 0 and "
          "duration < 22h and number between 3 and 9"});
    std::vector<std::string> build{"limits", "build", path, "--name", "Golden limits", "--track", "Runs"};
    for (const char* role :
         {"air_on_temp", "air_off_temp", "air_off_rh_twin", "bed_dp", "fan_current", "gas_flow"})
        build.insert(build.end(), {"--tag", role});
    done(build);
    done({"screen", path, "--limits", "Golden limits"});
}

/// The study, to be copied.
inline std::string screenedDemo() {
    return madeOnce("screened.jacinth", makeScreenedDemo);
}
/// What takes the false step of Kiln 4's bed ΔP out of that study, not entered yet.
inline Fix shiftOfKnockedBed(const Study& study) {
    Fix fix;
    fix.tag = study.catalog().tagAt("Kiln 4/Bed ΔP")->id;
    fix.body = ShiftFix{-38};
    fix.from = study.record().from + 18 * kDay + 16 * kHour;
    fix.to = study.record().to;
    fix.why = "knocked";
    return fix;
}

/// What a command says of it, as text.
inline std::string saidOfScreenedDemo(const std::string& name, const std::vector<std::string>& command) {
    const std::string study = screenedDemo();
    const std::string path = madeOnce(name, [&](const std::string& to) {
        fs::copy_file(study, to + ".study");
        std::vector<std::string> whole = command;
        whole.insert(whole.begin() + 1, to + ".study");
        const Said said = run(whole);
        EXPECT_EQ(said.code, 0) << said.err;
        std::ofstream(to) << said.out;
        fs::remove(to + ".study");
    });
    std::ifstream file(path);
    return {std::istreambuf_iterator<char>(file), {}};
}

}  // namespace jacinth::test
