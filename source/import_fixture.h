// Imports of texts into a study of the test's own.
#pragma once

#include <gtest/gtest.h>
#include <unistd.h>

#include <filesystem>

#include "core/time/times_for_tests.h"
#include "source/import_samples.h"
#include "store/imports.h"
#include "store/study.h"

namespace jacinth {

namespace fs = std::filesystem;

class ImportTest : public ::testing::Test {
  protected:
    void SetUp() override {
        dir = fs::temp_directory_path() / ("jacinth-source-" + std::to_string(::getpid()) + "-" +
                                           ::testing::UnitTest::GetInstance()->current_test_info()->name());
        fs::remove_all(dir);
        fs::create_directories(dir);
        study = std::move(*Study::create((dir / "s.jacinth").string()));
    }
    void TearDown() override {
        study.reset();
        fs::remove_all(dir);
    }
    ImportResult import(const std::string& text, const LayoutHints& hints = {}) {
        const auto result = importSamples(*study, {"f.csv", text}, hints);
        EXPECT_TRUE(result) << (result ? "" : result.error().message);
        return result ? *result : ImportResult{};
    }
    std::string refusal(const std::string& text, const LayoutHints& hints = {}) {
        const auto result = importSamples(*study, {"f.csv", text}, hints);
        EXPECT_TRUE(study->catalog().tags().empty());
        EXPECT_TRUE(study->imports().all().empty());
        return result ? "" : result.error().message;
    }
    Series read(const std::string& path) {
        const auto tag = study->catalog().tagAt(path);
        EXPECT_TRUE(tag) << path;
        return study->read(*tag, between(0, 4'000'000'000LL * kSecond), Which::AsLogged);
    }
    fs::path dir;
    std::unique_ptr<Study> study;
};

}  // namespace jacinth
