// How long work says how far it is, and learns that it should stop.
#pragma once

#include <functional>
#include <type_traits>
#include <utility>

namespace jacinth {

/// Handed to long work, which reports its share done often (several times a second) and ends with
/// Error::cancelled() as soon as stopped() is true. Copies share one listener, which must outlive them all,
/// and which is called on the threads that work: what it touches has to bear that.
class Progress {
  public:
    /// Nobody listens, and nothing stops the work.
    Progress() = default;
    /// `listen` gets the share done, 0 to 1, and returns false when the work should stop.
    template <typename Listener>
    requires(!std::is_same_v<std::remove_cvref_t<Listener>, Progress> &&
             std::is_invocable_r_v<bool, Listener&, double>) Progress(Listener listen)
        : listen_(std::move(listen)) {}

    /// Reports, and says whether to stop.
    bool stopped(double share) const { return listen_ && !listen_(share); }

    /// For a part of the work: its 0 to 1 are `from` to `to` of the whole.
    Progress part(double from, double to) const {
        if (!listen_) return {};
        return [listen = listen_, from, to](double share) { return listen(from + share * (to - from)); };
    }

  private:
    std::function<bool(double)> listen_;
};

}  // namespace jacinth
