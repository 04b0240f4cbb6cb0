#include "core/expr/look_back.h"

#include <algorithm>

#include "core/expr/check.h"
#include "core/expr/functions.h"

namespace jacinth {
namespace {

constexpr double kFadings = 40;  // time constants after which ewma has forgotten: e^-40 is below rounding

}  // namespace

Duration ownLookBack(const Node& n) {
    const Window& w = n.window;
    switch (n.function->reach) {
        case Reach::Now:
            return {};
        case Reach::Window:
            if (w.samples > 0 || !w.since.empty() || !w.during.empty()) return kAllBefore;
            return std::min(kAllBefore, w.duration);
        case Reach::JustBefore:
            return kNanosecond;
        case Reach::Delay:
            return std::min(kAllBefore, n.children[1]->duration);
        case Reach::Fading:
            return fromNanoseconds(std::min(kFadings * toNanoseconds(w.duration), toNanoseconds(kAllBefore)));
        case Reach::AllBefore:
            break;
    }
    return kAllBefore;
}

Duration lookBackOf(const Node& part) {
    Duration inside{};
    for (const NodePtr& c : part.children) inside = std::max(inside, lookBackOf(*c));
    const Duration own = part.kind == NodeKind::Call  ? ownLookBack(part)
                         : part.kind == NodeKind::For ? part.duration
                                                      : Duration{};
    return std::min(kAllBefore, inside + own);
}

Duration longestLookBack(std::span<const Expression> expressions) {
    Duration out{};
    for (const Expression& e : expressions) out = std::max(out, e.lookBack);
    return out;
}

}  // namespace jacinth
