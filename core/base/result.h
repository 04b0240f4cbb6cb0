// A value, or the reason why there is none. For what can go wrong in ordinary use: a file that is
// damaged, a rule with a slip in it. What cannot be helped (disk gone) is thrown; what must not be, asserted.
#pragma once

#include <cassert>
#include <string>
#include <utility>
#include <variant>

namespace jacinth {

/// What a caller can do about it: show the message, or nothing where the user stopped the work.
enum class ErrorKind { Refused, Cancelled };

/// Why something could not be done, in words for the user. `column` counts from 1 and is 0 where it means
/// nothing.
struct Error {
    std::string message;
    int column = 0;
    ErrorKind kind = ErrorKind::Refused;

    static Error cancelled() { return {"cancelled", 0, ErrorKind::Cancelled}; }
    bool isCancelled() const { return kind == ErrorKind::Cancelled; }
};

/// Holds a T or an Error. Convert from either; ask with `if (result)`; take with `*result` or `error()`.
template <typename T>
class [[nodiscard]] Result {
  public:
    Result(T value) : held_(std::in_place_index<0>, std::move(value)) {}
    Result(Error error) : held_(std::in_place_index<1>, std::move(error)) {}

    explicit operator bool() const { return held_.index() == 0; }
    T& operator*() & {
        assert(*this);
        return std::get<0>(held_);
    }
    const T& operator*() const& {
        assert(*this);
        return std::get<0>(held_);
    }
    T&& operator*() && {
        assert(*this);
        return std::get<0>(std::move(held_));
    }
    T* operator->() { return &**this; }
    const T* operator->() const { return &**this; }
    const Error& error() const { return std::get<1>(held_); }

  private:
    std::variant<T, Error> held_;
};

/// For work that gives nothing back but may fail.
struct Done {};
using Status = Result<Done>;

}  // namespace jacinth
