#include "work/base/expression_reach.h"

#include <algorithm>

namespace jacinth {

ExpressionReach reachOf(Study& study, const Expression& expression, AssetId asset) {
    ExpressionReach out;
    bool any = false, anyGap = false;
    for (const TagId id : tagsOf(study, expression, asset)) {
        const Tag& tag = *study.catalog().tag(id);
        const Bridging bridging = tag.bridging();
        if (tag.spacing > Duration::zero())
            out.spacing = any ? std::min(out.spacing, tag.spacing) : tag.spacing;
        if (bridging.longestGap > Duration::zero() && bridging.longestGap != kWithoutEnd) {
            out.longestGap = anyGap ? std::min(out.longestGap, bridging.longestGap) : bridging.longestGap;
            if (bridging.kind == TagKind::Continuous) out.margin = std::max(out.margin, bridging.longestGap);
            anyGap = true;
        }
        const auto extent = study.reader(tag.id).extent(id);
        if (!extent) continue;
        out.range.from = any ? std::min(out.range.from, extent->from) : extent->from;
        out.range.to = any ? std::max(out.range.to, extent->to) : extent->to;
        any = true;
    }
    if (!any) out.range = study.record();
    if (!anyGap) out.longestGap = std::max(kMinute, defaultLongestGap(TagKind::Continuous, out.spacing));
    return out;
}

}  // namespace jacinth
