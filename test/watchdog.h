// How long the interface thread was held up at most.
#pragma once

#include <QApplication>
#include <atomic>
#include <chrono>
#include <thread>

namespace jacinth::test {

/// Asks the interface thread for a sign of life every two milliseconds and keeps the longest it took to
/// answer: what a user would feel as a stutter. The first answers, while things are first drawn, can be left
/// out with restart().
class Watchdog {
  public:
    Watchdog()
        : thread_([this] {
              while (!ending_) {
                  const auto asked = std::chrono::steady_clock::now();
                  answered_ = false;
                  QMetaObject::invokeMethod(
                      qApp, [this] { answered_ = true; }, Qt::QueuedConnection);
                  while (!answered_ && !ending_) std::this_thread::sleep_for(std::chrono::microseconds(200));
                  const double ms =
                      std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - asked)
                          .count();
                  if (ms > worst_) worst_ = ms;
                  ++asked_;
                  std::this_thread::sleep_for(std::chrono::milliseconds(2));
              }
          }) {}
    ~Watchdog() {
        ending_ = true;
        // The last question may still wait for an answer in the queue: it must find us alive.
        thread_.join();
        QApplication::processEvents();
    }
    void restart() { worst_ = 0, asked_ = 0; }
    double worst() const { return worst_; }
    int asked() const { return asked_; }

  private:
    std::atomic<bool> ending_{false}, answered_{false};
    std::atomic<double> worst_{0};
    std::atomic<int> asked_{0};
    std::thread thread_;
};

}  // namespace jacinth::test
