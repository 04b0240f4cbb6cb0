#include "work/mend/hidden_samples.h"

#include <fmt/format.h>

#include <algorithm>

#include "core/span/span.h"
#include "store/judgement.h"
#include "work/mend/mending.h"

namespace jacinth {
namespace {

/// What a fix hides, both ends included; empty for other kinds.
std::vector<TimeRange> partsOf(const Fix& fix) {
    const auto* hide = std::get_if<HideFix>(&fix.body);
    if (!hide) return {};
    return hide->parts.empty() ? std::vector<TimeRange>{{fix.from, fix.to}} : hide->parts;
}

bool holds(const std::vector<TimeRange>& parts, Instant t) {
    return std::any_of(parts.begin(), parts.end(), [&](TimeRange p) { return p.from <= t && t <= p.to; });
}

bool hasSample(const Study& study, const Tag& tag, TimeRange part) {
    const TimeRange wanted{part.from, part.to + kNanosecond};
    const Series read = study.read(tag, wanted, Which::AsLogged);
    return !read.view().within(wanted).empty();
}

}  // namespace

std::optional<std::vector<HiddenSample>> hiddenSamples(const Study& study, const Tag& tag, TimeRange range,
                                                       std::int64_t most) {
    std::vector<HiddenSample> out;
    for (const Fix& fix : study.judgement().fixes(tag.id)) {
        if (!fix.on) continue;
        for (const TimeRange& part : partsOf(fix)) {
            const TimeRange wanted{std::max(part.from, range.from),
                                   std::min(part.to + kNanosecond, range.to)};
            if (wanted.to <= wanted.from) continue;
            most -= study.reader(tag.id).countAbout(tag.id, wanted);
            if (most < 0) return {};
            const Series read = study.read(tag, wanted, Which::AsLogged);
            const SeriesView inside = read.view().within(wanted);
            for (std::size_t i = 0; i < inside.size(); ++i)
                if (inside.usable(i)) out.push_back({fix.id, inside.times[i], inside.values[i]});
        }
    }
    std::stable_sort(out.begin(), out.end(),
                     [](const HiddenSample& a, const HiddenSample& b) { return a.time < b.time; });
    const auto same = std::unique(out.begin(), out.end(), [](const HiddenSample& a, const HiddenSample& b) {
        return a.time == b.time;
    });
    out.erase(same, out.end());
    return out;
}

Status bringBack(Study& study, FixId id, Instant time) {
    auto fix = fixOf(study, id);
    if (!fix) return fix.error();
    const std::vector<TimeRange> parts = partsOf(*fix);
    const Tag* tag = study.catalog().tag(fix->tag);
    if (!tag || !holds(parts, time)) return Error{"this fix does not hide that sample"};
    HideFix hide;
    for (const TimeRange& part : parts) {
        if (time < part.from || time > part.to) {
            hide.parts.push_back(part);
            continue;
        }
        for (const TimeRange rest :
             {TimeRange{part.from, time - kNanosecond}, TimeRange{time + kNanosecond, part.to}})
            if (rest.to >= rest.from && hasSample(study, *tag, rest)) hide.parts.push_back(rest);
    }
    if (hide.parts.empty()) return removeFix(study, id);
    fix->body = std::move(hide);
    return editFix(study, *fix);
}

}  // namespace jacinth
