#include "store/write_file.h"

#include <gtest/gtest.h>

#include <filesystem>

namespace jacinth {
namespace {

namespace fs = std::filesystem;

class WriteFile : public ::testing::Test {
  protected:
    WriteFile() { fs::create_directory(folder_); }
    ~WriteFile() override { fs::remove_all(folder_); }
    std::string path(const char* name) const { return (folder_ / name).string(); }

  private:
    fs::path folder_ =
        fs::temp_directory_path() /
        ("jacinth_write_" + std::string(::testing::UnitTest::GetInstance()->current_test_info()->name()));
};

TEST_F(WriteFile, WhatIsWrittenIsRead) {
    const std::string text = std::string("one\ntwo\0three", 13);
    ASSERT_TRUE(writeWhole(path("a.txt"), text));
    EXPECT_EQ(*readWhole(path("a.txt")), text);
    ASSERT_TRUE(writeWhole(path("a.txt"), "less"));
    EXPECT_EQ(*readWhole(path("a.txt")), "less") << "nothing of the longer text is left";
    ASSERT_TRUE(writeWhole(path("a.txt"), ""));
    EXPECT_EQ(*readWhole(path("a.txt")), "");
}

TEST_F(WriteFile, AFolderCanBeNeitherReadNorWritten) {
    EXPECT_NE(readWhole(path("")).error().message.find("is a folder"), std::string::npos);
    EXPECT_FALSE(writeWhole(path(""), "x"));
    EXPECT_FALSE(readWhole(path("missing.txt")));
    EXPECT_FALSE(writeWhole(path("missing/a.txt"), "x"));
    EXPECT_TRUE(fs::is_empty(path(""))) << "nothing is left over of what failed";
}

}  // namespace
}  // namespace jacinth
