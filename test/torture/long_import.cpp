#include "test/torture/long_import.h"

#include <gtest/gtest.h>

#include "store/derived_catalog.h"
#include "store/imports.h"
#include "store/study.h"
#include "test/cli_runner.h"
#include "test/torture/full_study.h"

namespace jacinth::test {

std::string longFile(int rows) {
    std::string out = "time,Press 1/Temp,Press 2/Temp,Press 3/Temp\n";
    for (int i = 0; i < rows; ++i)
        out += toIso(*fromIso("2026-04-01T00:00:00Z") + i * 5 * kSecond) + ",1" + std::to_string(i % 977) +
               ",2" + std::to_string(i % 31) + ",3" + std::to_string(i % 7) + "\n";
    return out;
}

std::size_t samplesOf(const std::string& path) {
    auto study = std::move(*Study::open(path));
    std::size_t out = 0;
    const auto add = [&](std::size_t v) { out = out * 1099511628211u + v; };
    for (const Tag& t : study->catalog().tags()) {
        if (!study->derived().definition(t.id).is_null()) continue;
        add(std::hash<std::string>{}(t.path()));
        const Series s = study->read(t, study->record(), Which::AsLogged);
        for (std::size_t i = 0; i < s.size(); ++i) {
            add(static_cast<std::size_t>(epochNanoseconds(s.times[i])));
            add(std::hash<double>{}(s.values[i]));
        }
    }
    return out;
}

LongImport::LongImport(const std::string& folder, int rows) : folder_(folder), file_(folder + "/long.csv") {
    {
        auto study = std::move(*Study::create(folder_ + "/before.jacinth"));
        fillStudy(*study, 1);
    }
    std::ofstream(file_) << longFile(rows);
    undisturbed_ = importInto(freshCopy());
}

std::string LongImport::freshCopy() const {
    const std::string to = folder_ + "/copy.jacinth";
    for (const char* end : {"-wal", "-shm"}) fs::remove(to + end);
    fs::copy_file(folder_ + "/before.jacinth", to, fs::copy_options::overwrite_existing);
    return to;
}

std::size_t LongImport::importInto(const std::string& path) const {
    const Said said = run({"import", path, file_});
    EXPECT_EQ(said.code, 0) << said.err;
    return samplesOf(path);
}

LongImport::Killed LongImport::completeAfterKill(const std::string& path) const {
    auto killed = Killed::Before;
    {
        auto study = std::move(*Study::open(path));
        EXPECT_EQ(study->check(), std::vector<std::string>{});
        const auto imports = study->imports().all();
        if (!imports.empty() && imports.back().file == "long.csv")
            killed = imports.back().complete ? Killed::After : Killed::InTheMiddle;
    }
    EXPECT_EQ(importInto(path), undisturbed_);
    return killed;
}

}  // namespace jacinth::test
