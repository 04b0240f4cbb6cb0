// Work that runs ahead of the one who takes its results, on the threads all of the program shares (oneTBB).
#pragma once

#include <tbb/task_group.h>

#include <deque>
#include <memory>
#include <optional>
#include <utility>

namespace jacinth {

/// Results in the order in which their work was started, whatever the order in which it is done. For one
/// thread, which starts and takes; while it waits it does part of the work itself, so that no number of these
/// inside each other can leave all threads waiting.
///
///     Ahead<Rows> rows;
///     while (rows.size() < 3 && file.more()) rows.start([chunk = file.next()] { return parse(chunk); });
///     store(rows.take());
template <typename Result>
class Ahead {
  public:
    Ahead() = default;
    Ahead(const Ahead&) = delete;
    Ahead& operator=(const Ahead&) = delete;
    /// Waits for what runs; what has not begun is left undone.
    ~Ahead() {
        for (const auto& each : underWay_) each->group.cancel();
        for (const auto& each : underWay_) waitQuietly(*each);
    }

    std::size_t size() const { return underWay_.size(); }
    bool empty() const { return underWay_.empty(); }

    /// `work` is called once, on any thread. What it refers to must last as long as this object.
    template <typename Work>
    void start(Work work) {
        underWay_.push_back(std::make_unique<Each>());
        Each* each = underWay_.back().get();
        each->group.run([each, work = std::move(work)] { each->result = work(); });
    }

    /// Waits for the oldest. Throws what its work threw. There must be one.
    Result take() {
        const std::unique_ptr<Each> oldest = std::move(underWay_.front());
        underWay_.pop_front();
        oldest->group.wait();
        return std::move(*oldest->result);
    }

  private:
    struct Each {
        std::optional<Result> result;
        tbb::task_group group;
    };
    static void waitQuietly(Each& each) {
        try {
            each.group.wait();
        } catch (...) {  // nobody asks for it any more
        }
    }
    std::deque<std::unique_ptr<Each>> underWay_;
};

}  // namespace jacinth
