#include "work/base/side_by_side.h"

#include <algorithm>
#include <atomic>
#include <future>
#include <thread>
#include <vector>

namespace jacinth {

void forEachSideBySide(Study& study, std::size_t count,
                       const std::function<void(Study&, std::size_t)>& work) {
    const std::size_t threads =
        std::min<std::size_t>(count, std::max(1u, std::thread::hardware_concurrency()));
    std::vector<std::unique_ptr<Study>> others;
    while (others.size() + 1 < threads) {
        auto opened = Study::open(study.path(), true);
        if (!opened) break;
        (*opened)->setWho(study.who());
        others.push_back(std::move(*opened));
    }
    std::atomic<std::size_t> next{0};
    const auto run = [&](Study& with) {
        for (std::size_t i = next++; i < count; i = next++) work(with, i);
    };
    std::vector<std::future<void>> running;
    for (const auto& other : others)
        running.push_back(std::async(std::launch::async, [&run, &other] { run(*other); }));
    std::exception_ptr failed;
    try {
        run(study);
    } catch (...) {
        failed = std::current_exception();
        next = count;
    }
    for (auto& r : running) try {
            r.get();
        } catch (...) {
            failed = std::current_exception();
        }
    if (failed) std::rethrow_exception(failed);
}

}  // namespace jacinth
