#include "core/base/text.h"

#include <gtest/gtest.h>

namespace jacinth {
namespace {

TEST(CsvFields, AreQuotedWhereTheyHaveToBe) {
    EXPECT_EQ(csvField("Kiln 1"), "Kiln 1");
    EXPECT_EQ(csvField("late, again"), "\"late, again\"");
    EXPECT_EQ(csvField("the \"new\" probe"), "\"the \"\"new\"\" probe\"");
    EXPECT_EQ(csvField("two\nlines"), "\"two\nlines\"");
    EXPECT_EQ(csvField(""), "");
}

TEST(CsvFields, WhatASpreadsheetWouldRunIsGuardedAndNumbersAreNot) {
    for (const char* runs : {"=1+1", "@SUM(A1)", "+A1", "-A1", "-1+2", "\tx"})
        EXPECT_EQ(guardedField(runs), std::string("'") + runs);
    EXPECT_EQ(guardedField("=A1,B1"), "\"'=A1,B1\"");
    for (const char* number : {"-1.25", "-3", "-1e-9", "-0.0001976782354778414", "7"})
        EXPECT_EQ(guardedField(number), number);
}

}  // namespace
}  // namespace jacinth
