// Read-only connections to one study for threads that come and go.
#pragma once

#include <functional>
#include <mutex>

#include "core/expr/evaluate.h"
#include "store/study.h"

namespace jacinth {

class StudyInputs;

/// Each Inputs has a connection of its own, which comes back to the pool with the end of it. Open connections
/// are used again. The pool must outlive all Inputs that came from it; what is not committed yet is not seen.
class StudyPool {
  public:
    explicit StudyPool(std::string path) : path_(std::move(path)) {}
    /// The asset's tags over a range; from any thread. `finished` gets them, on that thread, before they go.
    /// Throws StoreError where the file cannot be opened.
    std::unique_ptr<Inputs> inputs(AssetId asset, TimeRange range, Which which = Which::Mended,
                                   std::function<void(const StudyInputs&)> finished = {});

  private:
    class Borrowed;
    std::unique_ptr<Study> take();
    void giveBack(std::unique_ptr<Study> study);
    std::string path_;
    std::mutex mutex_;
    std::vector<std::unique_ptr<Study>> free_;
};

}  // namespace jacinth
