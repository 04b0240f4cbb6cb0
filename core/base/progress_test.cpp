#include "core/base/progress.h"

#include <gtest/gtest.h>

#include <vector>

#include "core/base/overloaded.h"
#include "core/base/result.h"

namespace jacinth {
namespace {

TEST(Progress, WithoutAListenerNothingStops) {
    EXPECT_FALSE(Progress().stopped(0.5));
    EXPECT_FALSE(Progress().part(0.2, 0.4).stopped(1));
}

TEST(Progress, PartsOfPartsReportSharesOfTheWhole) {
    std::vector<double> shares;
    const Progress whole([&](double share) {
        shares.push_back(share);
        return share < 0.9;
    });
    const Progress half = whole.part(0.5, 1), quarter = half.part(0, 0.5);
    EXPECT_FALSE(quarter.stopped(0));
    EXPECT_FALSE(quarter.stopped(1));
    EXPECT_FALSE(half.stopped(0.5));
    EXPECT_TRUE(half.stopped(1));
    EXPECT_EQ(shares, (std::vector<double>{0.5, 0.75, 0.75, 1}));
}

TEST(Errors, ACancellationIsAKindOfItsOwn) {
    const Result<int> stopped = Error::cancelled();
    EXPECT_TRUE(stopped.error().isCancelled());
    EXPECT_FALSE(Error{"cancelled"}.isCancelled());  // whatever a message says
}

TEST(Overloaded, TakesTheLambdaOfTheKind) {
    const auto name = [](const std::variant<int, std::string>& v) {
        return std::visit(Overloaded{[](int) { return 'i'; }, [](const std::string&) { return 's'; }}, v);
    };
    EXPECT_EQ(name(3), 'i');
    EXPECT_EQ(name("x"), 's');
}

}  // namespace
}  // namespace jacinth
