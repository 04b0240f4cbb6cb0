// What tests of the study file share: a study in a folder of its own, and samples that look like a sensor's.
#pragma once

#include <gtest/gtest.h>

#include <cmath>
#include <filesystem>
#include <random>

#include "core/time/times_for_tests.h"
#include "store/sample_store.h"
#include "store/study.h"

namespace jacinth {

namespace fs = std::filesystem;

inline Series wavy(int n, int decimals = 2, unsigned seed = 3) {
    std::mt19937 random(seed);
    Series s;
    Instant t = *fromIso("2026-03-01T00:00:00Z");
    for (int i = 0; i < n; ++i) {
        t += 30 * kSecond + static_cast<int>(random() % 40) * kMillisecond;
        const double scale = std::pow(10, decimals);
        s.push(t, std::round((50 + 20 * std::sin(i * 0.01) + static_cast<double>(random() % 100) / 200) *
                             scale) /
                      scale);
    }
    return s;
}

class StudyTest : public ::testing::Test {
  protected:
    void SetUp() override {
        dir = fs::temp_directory_path() / ("jacinth-store-" + std::to_string(::getpid()) + "-" +
                                           ::testing::UnitTest::GetInstance()->current_test_info()->name());
        fs::remove_all(dir);
        fs::create_directories(dir);
        path = (dir / "s.jacinth").string();
        study = std::move(*Study::create(path));
    }
    void TearDown() override {
        study.reset();
        fs::remove_all(dir);
    }
    TagId tag(const std::string& name = "Air-off RH") {
        WriteBatch t(*study);
        const TagId id =
            study->catalog().addTag(study->catalog().addAsset("Kiln 3"), name, "%", TagKind::Continuous);
        t.commit();
        return id;
    }
    WriteCount write(TagId id, const Series& s) {
        WriteBatch t(*study);
        const WriteCount count = study->samples().write(id, s);
        study->catalog().setSpacing(id, study->samples().spacing(id));
        t.commit();
        return count;
    }
    void reopen() {
        study.reset();
        study = std::move(*Study::open(path));
    }
    fs::path dir;
    std::string path;
    std::unique_ptr<Study> study;
};

inline constexpr TimeRange kAlways = between(0, 4'000'000'000LL * kSecond);

}  // namespace jacinth
