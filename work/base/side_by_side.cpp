#include "work/base/side_by_side.h"

#include <tbb/task_arena.h>
#include <tbb/task_group.h>

#include <algorithm>
#include <atomic>
#include <exception>
#include <vector>

namespace jacinth {

void forEachSideBySide(Study& study, std::size_t count,
                       const std::function<void(Study&, std::size_t)>& work) {
    const auto threads = std::min(count, static_cast<std::size_t>(tbb::this_task_arena::max_concurrency()));
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
    tbb::task_group group;
    for (const auto& other : others) group.run([&run, &other] { run(*other); });
    std::exception_ptr failed;
    try {
        run(study);
    } catch (...) {
        failed = std::current_exception();
        next = count;
    }
    try {
        group.wait();
    } catch (...) {
        failed = std::current_exception();
    }
    if (failed) std::rethrow_exception(failed);
}

}  // namespace jacinth
