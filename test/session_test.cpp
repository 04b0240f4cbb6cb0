// A session without a window: its jobs, its reader, and another session beside it.
#include <QElapsedTimer>
#include <QSignalSpy>

#include "app/base/background_reader.h"
#include "app/base/session.h"
#include "app/base/theme.h"
#include "core/time/times_for_tests.h"
#include "store/sample_store.h"
#include "test/window_driver.h"

namespace jacinth::test {
namespace {

std::string identityOf(const std::string& study) {
    return (*Study::open(study, true))->fileIdentity();
}

using namespace std::chrono_literals;

class Sessions : public ::testing::Test {
  protected:
    Sessions() {
        auto study = std::move(*Study::create(folder / "s.jacinth"));
        WriteBatch t(*study);
        tag =
            study->catalog().addTag(study->catalog().addAsset("Press 1"), "Temp", "°C", TagKind::Continuous);
        Series s;
        for (int i = 0; i < 1000; ++i) s.push(at(i * kMinute), i);
        study->samples().write(tag, s);
        t.commit();
    }
    std::unique_ptr<app::Session> open() {
        return std::make_unique<app::Session>(std::move(*Study::open(folder / "s.jacinth")),
                                              app::lightTheme());
    }
    /// Handles events until `done`; false after five seconds.
    template <typename Done>
    bool until(Done done) {
        QElapsedTimer timer;
        timer.start();
        while (!done() && timer.elapsed() < 5000) QTest::qWait(2);
        return done();
    }
    Folder folder{"sessions"};
    TagId tag;
};

TEST_F(Sessions, OneThatEndsDoesNotWaitForAnothersWork) {
    const auto first = open();
    auto second = open();
    std::atomic<bool> begun{false}, mayEnd{false};
    first->runJob(first.get(), "long", "long work", [&](app::JobContext&) {
        begun = true;
        while (!mayEnd) std::this_thread::sleep_for(1ms);
        return [] {};
    });
    ASSERT_TRUE(until([&] { return begun.load(); }));
    QElapsedTimer timer;
    timer.start();
    second.reset();
    EXPECT_LT(timer.elapsed(), 2000);
    EXPECT_TRUE(first->busy());
    mayEnd = true;
    EXPECT_TRUE(until([&] { return !first->busy(); }));
}

TEST_F(Sessions, MoreJobsThanCoresAllGoOn) {
    const auto session = open();
    std::atomic<int> running{0};
    std::atomic<bool> mayEnd{false};
    constexpr int kJobs = 6;
    for (int i = 0; i < kJobs; ++i)
        session->runJob(session.get(), QString("job %1").arg(i), "work", [&](app::JobContext&) {
            ++running;
            while (!mayEnd) std::this_thread::sleep_for(1ms);
            return [] {};
        });
    EXPECT_TRUE(until([&] { return running == kJobs; })) << running;
    mayEnd = true;
    EXPECT_TRUE(until([&] { return !session->busy(); }));
}

TEST_F(Sessions, AReadingIsDeliveredAtOnceWhereItIsDoneInTime) {
    app::BackgroundReader reader(folder / "s.jacinth", identityOf(folder / "s.jacinth"));
    QObject client;
    int delivered = 0;
    double value = 0;
    const auto number = reader.ask(&client, "x", [&](Study& study) {
        const Series s = study.read(*study.catalog().tag(tag), between(0, kDay), Which::AsLogged);
        return [&, v = s.values[7]] {
            ++delivered;
            value = v;
        };
    });
    ASSERT_TRUE(reader.deliverWithin(number, 5s));
    EXPECT_EQ(delivered, 1);
    EXPECT_EQ(value, 7);
    QTest::qWait(30);
    EXPECT_EQ(delivered, 1) << "delivered again by the event loop";
    EXPECT_TRUE(reader.idle());
    EXPECT_FALSE(reader.deliverWithin(number, 1ms)) << "there is nothing of this number any more";
}

TEST_F(Sessions, AReadingThatTakesLongerIsDeliveredLater) {
    app::BackgroundReader reader(folder / "s.jacinth", identityOf(folder / "s.jacinth"));
    QObject client;
    std::atomic<bool> mayEnd{false};
    bool delivered = false;
    const auto number = reader.ask(&client, "x", [&](Study&) {
        while (!mayEnd) std::this_thread::sleep_for(1ms);
        return [&] { delivered = true; };
    });
    EXPECT_FALSE(reader.deliverWithin(number, 5ms));
    EXPECT_FALSE(delivered);
    mayEnd = true;
    EXPECT_TRUE(until([&] { return delivered; }));
}

TEST_F(Sessions, OfTwoReadingsOfOneNameTheLaterIsTheOneThatIsWaitedFor) {
    app::BackgroundReader reader(folder / "s.jacinth", identityOf(folder / "s.jacinth"));
    QObject client;
    std::atomic<bool> mayEnd{false};
    std::vector<int> delivered;
    reader.ask(&client, "other", [&](Study&) {
        while (!mayEnd) std::this_thread::sleep_for(1ms);
        return [] {};
    });
    reader.ask(&client, "x", [&](Study&) { return [&] { delivered.push_back(1); }; });
    const auto second = reader.ask(&client, "x", [&](Study&) { return [&] { delivered.push_back(2); }; });
    mayEnd = true;
    EXPECT_TRUE(reader.deliverWithin(second, 5s));
    QTest::qWait(30);
    EXPECT_EQ(delivered, std::vector<int>{2});  // the first was never read
}

TEST_F(Sessions, WhatIsReadForOneThatIsGoneIsNotDelivered) {
    app::BackgroundReader reader(folder / "s.jacinth", identityOf(folder / "s.jacinth"));
    bool delivered = false;
    {
        QObject client;
        reader.ask(&client, "x", [&](Study&) { return [&] { delivered = true; }; });
    }
    EXPECT_TRUE(until([&] { return reader.idle(); }));
    EXPECT_FALSE(delivered);
}

TEST_F(Sessions, AReadingThatFailsIsReportedAndTheNextOneReadsAgain) {
    app::BackgroundReader reader(folder / "s.jacinth", identityOf(folder / "s.jacinth"));
    QSignalSpy failed(&reader, &app::BackgroundReader::failed);
    QObject client;
    reader.ask(&client, "x",
               [](Study&) -> app::BackgroundReader::Deliver { throw std::runtime_error("the disk failed"); });
    ASSERT_TRUE(until([&] { return failed.count() == 1; }));
    EXPECT_EQ(failed[0][0].toString(), "the disk failed");
    std::size_t tags = 0;
    const auto number = reader.ask(
        &client, "x", [&](Study& study) { return [&, n = study.catalog().tags().size()] { tags = n; }; });
    EXPECT_TRUE(reader.deliverWithin(number, 5s));
    EXPECT_EQ(tags, 1u);
}

}  // namespace
}  // namespace jacinth::test
