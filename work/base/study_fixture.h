// A new study in a file of its own, gone after the test.
#pragma once

#include <gtest/gtest.h>
#include <unistd.h>

#include <filesystem>

#include "store/study.h"

namespace jacinth {

class NewStudy : public ::testing::Test {
  protected:
    void SetUp() override {
        path = ::testing::TempDir() + "work-" + std::to_string(::getpid()) + ".jacinth";
        for (const char* end : {"", "-wal", "-shm"}) std::filesystem::remove(path + end);
        study = std::move(*Study::create(path));
        WriteBatch t(*study);
        fill();
        t.commit();
    }
    void TearDown() override {
        study.reset();
        std::filesystem::remove(path);
    }
    virtual void fill() = 0;  ///< inside a transaction
    std::string path;
    std::unique_ptr<Study> study;
};

}  // namespace jacinth
