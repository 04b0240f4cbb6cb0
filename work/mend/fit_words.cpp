#include "work/mend/fit_words.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>

#include "core/base/text.h"
#include "store/catalog.h"
#include "store/tracks.h"

namespace jacinth {
namespace {

constexpr std::array<const char*, 6> kSpeakOfIt{"calibrat",   "zeroed",          "zero set",
                                                "zero reset", "sensor replaced", "probe replaced"};
constexpr std::array<const char*, 4> kTold{track_kind::kWorkOrders, track_kind::kLog, track_kind::kLabels,
                                           track_kind::kStops};

bool speaksOfIt(const std::string& words) {
    const std::string small = lowerCase(words);
    return std::any_of(kSpeakOfIt.begin(), kSpeakOfIt.end(),
                       [&](const char* one) { return small.find(one) != std::string::npos; });
}

std::string amount(double by, double sure, const std::string& unit) {
    const std::string behind = unit.empty() ? "" : " " + unit;
    if (std::isnan(sure))
        return fmt::format("{}{:.3g}{}, not known how sure", by < 0 ? "−" : "", std::abs(by), behind);
    // As many digits as its uncertainty leaves meaning to.
    const int digits = sure > 0 ? std::clamp(1 - static_cast<int>(std::floor(std::log10(sure))), 0, 9) : 3;
    return fmt::format("{}{:.{}f} ± {:.{}f}{}", by < 0 ? "−" : "", std::abs(by), digits, sure, digits,
                       behind);
}

/// Does it name another tag of the asset, and not this one?
bool isAboutAnother(const Study& study, const Tag& tag, const std::string& words) {
    const std::string small = lowerCase(words);
    const auto names = [&](const Tag& t) { return small.find(lowerCase(t.name)) != std::string::npos; };
    if (names(tag)) return false;
    const auto& tags = study.catalog().tags();
    return std::any_of(tags.begin(), tags.end(),
                       [&](const Tag& t) { return t.asset == tag.asset && t.id != tag.id && names(t); });
}

}  // namespace

std::string sureWords(const RampFit& fit, bool startIsFixed, const std::string& unit) {
    if (std::isnan(fit.endSure))
        return "How sure the ends are cannot be told from so few readings: one more is needed.";
    const std::string start = startIsFixed ? fmt::format("Start fixed at {:.3g}", fit.startBy)
                                           : "Start " + amount(fit.startBy, fit.startSure, unit);
    return fmt::format("{}, end {} (95 %)", start, amount(fit.endBy, fit.endSure, unit));
}

std::string sureWords(const BendFit& fit, const std::string& unit) {
    if (std::isnan(fit.spread))
        return "Each knot is as sure as its one reading: two at the same moment would tell how far readings "
               "differ.";
    const auto [least, most] = std::minmax_element(fit.readingsAt.begin(), fit.readingsAt.end());
    const double wide = fit.knotSure(*least), narrow = fit.knotSure(*most);
    const std::string behind = unit.empty() ? "" : " " + unit;
    if (*least == *most) return fmt::format("Each knot ± {:.2g}{} (95 %)", wide, behind);
    return fmt::format("Each knot ± {:.2g} to {:.2g}{} (95 %), by how many readings it has", narrow, wide,
                       behind);
}

std::vector<Recalibration> recalibrationsIn(const Study& study, const Fix& fix) {
    std::vector<Recalibration> out;
    const Tag* tag = study.catalog().tag(fix.tag);
    if (!tag) return out;
    const Duration margin = std::max<Duration>(kHour, (fix.to - fix.from) / 100);
    for (const char* kind : kTold)
        for (const Span& s : study.tracks().spansOf(kind)) {
            if (s.end <= fix.from + margin || s.end >= fix.to - margin) continue;
            if (s.asset.number != 0 && s.asset != tag->asset) continue;
            if (s.tag.number != 0 && s.tag != tag->id) continue;
            for (const auto& [name, fact] : s.facts) {
                const auto* words = std::get_if<std::string>(&fact);
                if (!words || !speaksOfIt(*words) || isAboutAnother(study, *tag, *words)) continue;
                out.push_back({s.end, *words});
                break;
            }
        }
    std::stable_sort(out.begin(), out.end(), [](const auto& a, const auto& b) { return a.time < b.time; });
    return out;
}

std::string recalibrationWords(const std::vector<Recalibration>& found, const Zone& zone) {
    if (found.empty()) return {};
    const std::string more = found.size() == 1 ? "" : fmt::format(" and {} more", found.size() - 1);
    return fmt::format(
        "A recalibration on record lies within the stretch: {}, “{}”{}. Fit each side by itself.",
        zone.shortText(found.front().time), found.front().words, more);
}

}  // namespace jacinth
