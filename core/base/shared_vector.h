// A vector that copies share until one of them is edited: copying costs nothing, however long it is.
#pragma once

#include <atomic>
#include <cstddef>
#include <initializer_list>
#include <memory>
#include <utility>
#include <vector>

namespace jacinth {

/// Reads like a const std::vector, and is one where a function wants one. edit() gives the vector itself, and
/// first a copy of it where others share it: take it once before a loop. References into it last until the
/// next edit() or assignment. Copies may be read on several threads; one object is edited by one thread.
///
///     SharedVector<double> a = std::vector<double>{1, 2}, b = a;  // one vector
///     b.edit().push_back(3);                                      // two
template <typename T>
class SharedVector {
  public:
    SharedVector() = default;
    SharedVector(std::vector<T> values) : held_(std::make_shared<std::vector<T>>(std::move(values))) {}
    SharedVector(std::initializer_list<T> values) : SharedVector(std::vector<T>(values)) {}

    operator const std::vector<T>&() const { return get(); }
    const std::vector<T>& get() const { return held_ ? *held_ : none(); }
    std::vector<T>& edit() {
        if (!held_)
            held_ = std::make_shared<std::vector<T>>();
        else if (held_.use_count() > 1)
            held_ = std::make_shared<std::vector<T>>(*held_);
        else  // what another thread read before it gave up its copy comes before what is written now
            std::atomic_thread_fence(std::memory_order_acquire);
        return *held_;
    }

    std::size_t size() const { return get().size(); }
    bool empty() const { return get().empty(); }
    const T& operator[](std::size_t i) const { return get()[i]; }
    const T& front() const { return get().front(); }
    const T& back() const { return get().back(); }
    const T* data() const { return get().data(); }
    auto begin() const { return get().begin(); }
    auto end() const { return get().end(); }

    /// Quick where they share one vector.
    bool operator==(const SharedVector& other) const { return held_ == other.held_ || get() == other.get(); }

  private:
    static const std::vector<T>& none() {
        static const std::vector<T> empty;
        return empty;
    }
    std::shared_ptr<std::vector<T>> held_;
};

}  // namespace jacinth
