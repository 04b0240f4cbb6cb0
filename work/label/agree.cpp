#include "work/label/agree.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <set>

#include "store/tracks.h"

namespace jacinth {
namespace {

std::vector<SaidOf> saidBy(const std::vector<Span>& labels, const std::string& who) {
    std::vector<SaidOf> out;
    for (const Span& s : labels)
        if (factText(s.facts, "by") == who && !factText(s.facts, "kind").empty())
            out.push_back({s.asset, s.range(), factText(s.facts, "kind")});
    return out;
}

}  // namespace

std::vector<std::string> whoLabelled(const Study& study) {
    std::set<std::string> names;
    for (const Span& s : study.tracks().spansOf(track_kind::kLabels))
        if (const std::string by = factText(s.facts, "by"); !by.empty()) names.insert(by);
    return {names.begin(), names.end()};
}

Result<Agreement> agreementBetween(const Study& study, const std::string& one, const std::string& two,
                                   AssetId asset, TimeRange range) {
    const std::vector<std::string> known = whoLabelled(study);
    if (one == two) return Error{fmt::format("{} agrees with {}: say two people", one, two)};
    for (const std::string& who : {one, two})
        if (std::find(known.begin(), known.end(), who) == known.end())
            return Error{known.empty() ? std::string("nobody has labelled anything")
                                       : fmt::format("{} has labelled nothing; labels are by {}", who,
                                                     fmt::join(known, ", "))};
    const std::vector<Span> labels = study.tracks().spansOf(track_kind::kLabels);
    const std::vector<SaidOf> a = saidBy(labels, one), b = saidBy(labels, two);
    if (range.length() <= Duration::zero()) range = study.record();
    std::map<AssetId, TimeRange> looked;
    for (const auto* side : {&a, &b})
        for (const SaidOf& s : *side)
            if (!asset || s.asset == asset) looked[s.asset] = range;
    return agreementOf(a, b, looked);
}

}  // namespace jacinth
