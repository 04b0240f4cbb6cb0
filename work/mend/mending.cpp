#include "work/mend/mending.h"

#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "store/judgement.h"

namespace jacinth {
namespace {

nlohmann::json detailOf(const Fix& f) {
    return {{"tag", f.tag},
            {"from", toIso(f.from)},
            {"to", toIso(f.to)},
            {"startBy", f.startBy},
            {"endBy", f.endBy}};
}

Result<Fix> findFix(const Study& study, FixId id) {
    for (const Fix& f : study.judgement().allFixes())
        if (f.id == id) return f;
    return Error{fmt::format("there is no fix {}", id)};
}

}  // namespace

std::string fixName(const Study& study, const Fix& fix) {
    const Tag* tag = study.catalog().tag(fix.tag);
    return fmt::format("{} on {} {}", fixKindName(fix.kind), tag ? tag->assetName : "", tag ? tag->name : "");
}

Result<FixId> enterFix(Study& study, const Fix& fix) {
    if (const Status valid = validateFix(fix); !valid) return valid.error();
    const Tag* tag = study.catalog().tag(fix.tag);
    if (!tag) return Error{"there is no such tag"};
    if (tag->kind == TagKind::State)
        return Error{fmt::format("{} holds states; a {} needs numbers", tag->path(), fixKindName(fix.kind))};
    FixId id;
    study.change(fixName(study, fix), fix.why, detailOf(fix), [&] { id = study.judgement().addFix(fix); });
    return id;
}

Status switchFix(Study& study, FixId id, bool on) {
    const auto fix = findFix(study, id);
    if (!fix) return fix.error();
    study.change(fmt::format("{} {}", fixName(study, *fix), on ? "switched on" : "switched off"), "",
                 detailOf(*fix), [&] { study.judgement().setFixOn(id, on); });
    return Done{};
}

Status removeFix(Study& study, FixId id) {
    const auto fix = findFix(study, id);
    if (!fix) return fix.error();
    study.change(fmt::format("{} removed", fixName(study, *fix)), "", detailOf(*fix),
                 [&] { study.judgement().removeFix(id); });
    return Done{};
}

Result<RampFit> fitToReadings(Study& study, const Tag& tag, TimeRange stretch,
                              std::optional<double> fixedStart) {
    const Series series = study.readForFigures(tag, {stretch.from, stretch.to + kNanosecond}, Which::Mended);
    return fitRamp(series, tag.bridging(), stretch, study.judgement().checkReadings(tag.id), fixedStart);
}

}  // namespace jacinth
