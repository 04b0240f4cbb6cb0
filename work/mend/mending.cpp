#include "work/mend/mending.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <nlohmann/json.hpp>

#include "core/mend/fill.h"
#include "store/fix_body.h"
#include "store/judgement.h"
#include "work/derived/derived_web.h"

namespace jacinth {
namespace {

constexpr std::int64_t kSamplesAtOnce = 1 << 20;

nlohmann::json detailOf(const Fix& f) {
    nlohmann::json out = fixBodyToJson(f.body);
    out.update(
        {{"tag", f.tag}, {"kind", fixKindName(f.kind())}, {"from", toIso(f.from)}, {"to", toIso(f.to)}});
    return out;
}

bool fills(const Fix& fix) {
    return fix.kind() == FixKind::Bridge || fix.kind() == FixKind::Borrow || fix.kind() == FixKind::Decay;
}

/// What a fix would fill: the longest of its gaps, and the samples put into all of them.
struct ToFill {
    TimeRange longest{};
    std::int64_t samples = 0;
};

/// Between usable logged samples, as far as the fix reaches and fills them.
class GapsToFill {
  public:
    GapsToFill(const Fix& fix, Duration spacing) : spacing_(spacing) {
        out.longest = {fix.from, fix.from};
        if (const auto* bridge = std::get_if<BridgeFix>(&fix.body)) most_ = bridge->longest;
    }
    void add(TimeRange gap) {
        if (gap.length() > most_) return;
        if (gap.length() > out.longest.length()) out.longest = gap;
        if (gap.length() > spacing_ + spacing_ / 2) out.samples += samplesToFill(gap, spacing_);
    }
    ToFill out;

  private:
    Duration spacing_, most_ = Duration::max();
};

ToFill toFill(const Study& study, const Tag& tag, const Fix& fix, Duration spacing) {
    const bool over = std::visit(
        [](const auto& body) {
            if constexpr (requires { body.over; }) return body.over;
            return false;
        },
        fix.body);
    if (over) return {{fix.from, fix.to}, samplesToFill({fix.from, fix.to}, spacing)};
    GapsToFill gaps(fix, spacing);
    std::optional<Instant> last;
    const Duration piece = std::max<Duration>(kSamplesAtOnce * spacing, kDay);
    for (Instant from = fix.from; from <= fix.to; from += piece) {
        const Series s =
            study.read(tag, {from, std::min(from + piece, fix.to + kNanosecond)}, Which::AsLogged);
        for (std::size_t i = 0; i < s.size(); ++i) {
            if (!s.view().usable(i)) continue;
            gaps.add({last.value_or(fix.from), s.times[i]});
            last = s.times[i];
        }
    }
    if (last) gaps.add({*last, fix.to});
    return gaps.out;
}

/// What a fill puts in has to fit in memory, at every later reading.
Status checkFill(const Study& study, const Tag& tag, const Fix& fix) {
    if (!fills(fix)) return Done{};
    const Duration spacing = tag.spacing;
    if (samplesToFill({fix.from, fix.to}, spacing) <= kMostFilled) return Done{};
    const ToFill what = toFill(study, tag, fix, spacing);
    const std::int64_t samples = samplesToFill(what.longest, spacing);
    if (samples > kMostFilled)
        return Error{
            fmt::format("this {} would put {} million samples, {} apart, into {} of {}; at most {} million "
                        "can be filled at once: leave this gap open, or fill a shorter part of it",
                        fixKindName(fix.kind()), samples / 1'000'000, sayDuration(spacing),
                        sayDuration(what.longest.length()), tag.path(), kMostFilled / 1'000'000)};
    if (what.samples > kMostFilledByFix)
        return Error{
            fmt::format("this {} would put {} million samples, {} apart, into the gaps of {}; one fix can "
                        "put in {} million: fill a shorter part of the record",
                        fixKindName(fix.kind()), what.samples / 1'000'000, sayDuration(spacing), tag.path(),
                        kMostFilledByFix / 1'000'000)};
    return Done{};
}

Status checkAgainst(const Study& study, const Fix& fix) {
    if (const Status valid = validateFix(fix); !valid) return valid.error();
    const Tag* tag = study.catalog().tag(fix.tag);
    if (!tag) return Error{"the tag is not in this study"};
    if (tag->kind == TagKind::State && !fix.worksOnStates())
        return Error{
            fmt::format("{} holds states; a {} needs numbers", tag->path(), fixKindName(fix.kind()))};
    if (const auto* borrow = std::get_if<BorrowFix>(&fix.body)) {
        const Tag* twin = study.catalog().tag(borrow->twin);
        if (!twin) return Error{"the twin is not in this study"};
        if (twin->kind == TagKind::State)
            return Error{fmt::format("{} holds states; nothing can be borrowed from it", twin->path())};
        StudyMarks marks(study);
        if (const std::string way = DerivedWeb(study, marks).wayFrom(twin->id, fix.tag); !way.empty())
            return Error{
                fmt::format("{} cannot borrow from a tag that is made from it: {}", tag->path(), way)};
    }
    return checkFill(study, *tag, fix);
}

struct AmountText {
    const Study& study;
    std::string unit;
    std::string signedNumber(double v) const {
        return v == 0 ? "0" : fmt::format("{}{:.4g}", v < 0 ? "−" : "+", std::abs(v));
    }
    std::string with(const std::string& text) const { return unit.empty() ? text : text + " " + unit; }
    static std::string over(bool over) { return over ? ", in place of what is there" : ""; }

    std::string operator()(const ShiftFix& f) const { return with(signedNumber(f.by)); }
    std::string operator()(const RampFix& f) const {
        return with(signedNumber(f.startBy) + " → " + signedNumber(f.endBy));
    }
    std::string operator()(const BendFix& f) const {
        const auto [least, most] = std::minmax_element(
            f.knots.begin(), f.knots.end(), [](const auto& a, const auto& b) { return a.by < b.by; });
        return fmt::format("{} knots, {}", f.knots.size(),
                           with(signedNumber(least->by) + " to " + signedNumber(most->by)));
    }
    std::string operator()(const CurveFix& f) const {
        std::size_t points = 0;
        for (const auto& c : f.calibrations) points += c.points.size();
        return fmt::format("{} point{} of {} calibration{}", points, points == 1 ? "" : "s",
                           f.calibrations.size(), f.calibrations.size() == 1 ? "" : "s");
    }
    std::string operator()(const BridgeFix& f) const {
        if (f.over) return fmt::format("{}{}", bridgeWayName(f.way), over(true));
        return fmt::format("{}, gaps up to {}", bridgeWayName(f.way), sayDuration(f.longest));
    }
    std::string operator()(const BorrowFix& f) const {
        const Tag* twin = study.catalog().tag(f.twin);
        return fmt::format("from {}{}", twin ? twin->path() : "a tag that is gone", over(f.over));
    }
    std::string operator()(const DecayFix& f) const {
        return (f.tau ? "τ " + sayDuration(*f.tau) : std::string("τ fitted")) + over(f.over);
    }
    std::string operator()(const HideFix& f) const {
        if (f.parts.empty()) return "all of it";
        return fmt::format("{} part{}", f.parts.size(), f.parts.size() == 1 ? "" : "s");
    }
    std::string operator()(const CutFix&) const { return "all of it"; }
    std::string operator()(const ClockFix& f) const {
        return (f.by < Duration::zero() ? "−" : "+") + sayDuration(std::chrono::abs(f.by));
    }
};

/// Mean of the usable values; NaN for none.
struct Mean {
    double sum = 0;
    std::int64_t n = 0;
    void add(const SeriesView& s) {
        for (std::size_t i = 0; i < s.size(); ++i)
            if (s.usable(i)) sum += s.values[i], ++n;
    }
    double value() const { return n == 0 ? std::nan("") : sum / static_cast<double>(n); }
};

void count(const SeriesView& before, const SeriesView& after, FixFigures& out) {
    std::size_t i = 0, j = 0;
    while (i < before.size() || j < after.size()) {
        if (j == after.size() || (i < before.size() && before.times[i] < after.times[j])) {
            out.gone += before.usable(i++);
        } else if (i == before.size() || after.times[j] < before.times[i]) {
            out.filled += after.usable(j++);
        } else {
            if (before.usable(i) && !after.usable(j)) ++(after.ends(j) ? out.gone : out.hidden);
            if (!before.usable(i) && after.usable(j)) ++out.filled;
            if (before.usable(i) && after.usable(j) && before.values[i] != after.values[j]) ++out.changed;
            ++i, ++j;
        }
    }
}

}  // namespace

Result<Fix> fixOf(const Study& study, FixId id) {
    for (const Fix& f : study.judgement().allFixes())
        if (f.id == id) return f;
    return Error{fmt::format("there is no fix {}", id)};
}

std::vector<Fix> overlapping(const Study& study, const Fix& fix) {
    std::vector<Fix> out;
    for (const Fix& f : study.judgement().fixes(fix.tag))
        if (f.id != fix.id && f.touches({fix.from, fix.to + kNanosecond})) out.push_back(f);
    return out;
}

std::string fixName(const Study& study, const Fix& fix) {
    const Tag* tag = study.catalog().tag(fix.tag);
    return fmt::format("{} on {} {}", fixKindName(fix.kind()), tag ? tag->assetName : "",
                       tag ? tag->name : "");
}

std::string fixAmount(const Study& study, const Fix& fix) {
    const Tag* tag = study.catalog().tag(fix.tag);
    return std::visit(AmountText{study, tag ? tag->unit : ""}, fix.body);
}

Result<FixId> enterFix(Study& study, const Fix& fix) {
    const auto ids = enterFixes(study, {fix});
    if (!ids) return ids.error();
    return ids->front();
}

Result<std::vector<FixId>> enterFixes(Study& study, const std::vector<Fix>& fixes) {
    if (fixes.empty()) return Error{"no fix was given"};
    for (const Fix& fix : fixes)
        if (const Status good = checkAgainst(study, fix); !good) return good.error();
    nlohmann::json detail = detailOf(fixes.front());
    if (fixes.size() > 1) {
        detail = nlohmann::json::array();
        for (const Fix& fix : fixes) detail.push_back(detailOf(fix));
    }
    const std::string name = fixes.size() == 1
                                 ? fixName(study, fixes[0])
                                 : fmt::format("{} and {} more", fixName(study, fixes[0]), fixes.size() - 1);
    std::vector<FixId> ids;
    study.change(name, fixes.front().why, detail, [&] {
        for (const Fix& fix : fixes) ids.push_back(study.judgement().addFix(fix));
    });
    return ids;
}

Status editFix(Study& study, const Fix& fix) {
    const auto before = fixOf(study, fix.id);
    if (!before) return before.error();
    if (const Status good = checkAgainst(study, fix); !good) return good.error();
    nlohmann::json detail = detailOf(fix);
    detail["before"] = detailOf(*before);
    study.change(fixName(study, fix) + " edited", fix.why, detail, [&] { study.judgement().updateFix(fix); });
    return Done{};
}

Status switchFix(Study& study, FixId id, bool on) {
    const auto fix = fixOf(study, id);
    if (!fix) return fix.error();
    study.change(fmt::format("{} {}", fixName(study, *fix), on ? "switched on" : "switched off"), "",
                 detailOf(*fix), [&] { study.judgement().setFixOn(id, on); });
    return Done{};
}

Status removeFix(Study& study, FixId id) {
    const auto fix = fixOf(study, id);
    if (!fix) return fix.error();
    study.change(fmt::format("{} removed", fixName(study, *fix)), "", detailOf(*fix),
                 [&] { study.judgement().removeFix(id); });
    return Done{};
}

Status moveFix(Study& study, FixId id, bool up) {
    const auto fix = fixOf(study, id);
    if (!fix) return fix.error();
    const std::vector<Fix> all = study.judgement().fixes(fix->tag);
    const auto at = std::find_if(all.begin(), all.end(), [&](const Fix& f) { return f.id == id; });
    if (up ? at == all.begin() : at + 1 == all.end())
        return Error{fmt::format("fix {} is the {} of its tag", id, up ? "first" : "last")};
    const FixId other = up ? (at - 1)->id : (at + 1)->id;
    study.change(fmt::format("{} moved {}", fixName(study, *fix), up ? "up" : "down"), "",
                 {{"fix", id}, {up ? "before" : "after", other}},
                 [&] { study.judgement().exchangeFixes(id, other); });
    return Done{};
}

std::vector<Fix> fixesBefore(const Study& study, const Fix& fix) {
    std::vector<Fix> out = study.judgement().fixes(fix.tag);
    const auto here = std::find_if(out.begin(), out.end(), [&](const Fix& f) { return f.id == fix.id; });
    if (fix.id) out.erase(here, out.end());
    return out;
}

std::vector<Fix> fixesWith(const Study& study, const Fix& fix) {
    std::vector<Fix> out = study.judgement().fixes(fix.tag);
    Fix on = fix;
    on.on = true;
    const auto here = std::find_if(out.begin(), out.end(), [&](const Fix& f) { return f.id == fix.id; });
    if (fix.id && here != out.end())
        *here = std::move(on);
    else
        out.push_back(std::move(on));
    return out;
}

FixFigures figuresOf(Study& study, const Fix& fix) {
    FixFigures out;
    const Tag* tag = study.catalog().tag(fix.tag);
    if (!tag) return out;
    const std::vector<Fix> before = fixesBefore(study, fix);
    std::vector<Fix> after = before;
    after.push_back(fix);
    after.back().on = true;
    const SampleReader& reader = study.reader(tag->id);
    const TimeRange stretch{fix.from, fix.to + kNanosecond};
    // Between samples the mended line is drawn from one that is not changed: the change itself is said.
    const auto afterAt = [&](Instant t, double value) {
        return fix.isPlain() ? value + changeAt(after.back(), t, value) : study.valueAt(*tag, t, after);
    };
    out.startBefore = study.valueAt(*tag, fix.from, before);
    out.endBefore = study.valueAt(*tag, fix.to, before);
    out.startAfter = afterAt(fix.from, out.startBefore), out.endAfter = afterAt(fix.to, out.endBefore);
    Mean meanBefore, meanAfter;
    const std::int64_t pieces = 1 + reader.countAbout(tag->id, stretch) / kSamplesAtOnce;
    const Duration step = stretch.length() / pieces + kNanosecond;
    for (Instant from = stretch.from; from < stretch.to; from += step) {
        const TimeRange piece{from, std::min(from + step, stretch.to)};
        const Series was = reader.read(tag->id, piece, before), is = reader.read(tag->id, piece, after);
        const SeriesView wasIn = was.view().within(piece), isIn = is.view().within(piece);
        meanBefore.add(wasIn), meanAfter.add(isIn);
        count(wasIn, isIn, out);
    }
    out.meanBefore = meanBefore.value(), out.meanAfter = meanAfter.value();
    return out;
}

std::vector<ReadingOff> readingsOf(Study& study, const Fix& fix) {
    const Tag* tag = study.catalog().tag(fix.tag);
    if (!tag) return {};
    const Series series =
        study.readForFigures(*tag, {fix.from, fix.to + kNanosecond}, fixesBefore(study, fix));
    std::vector<ReadingOff> out = readingsAgainst(series, tag->bridging(), {fix.from, fix.to},
                                                  study.judgement().checkReadings(tag->id));
    markOutlying(out);
    return out;
}

}  // namespace jacinth
