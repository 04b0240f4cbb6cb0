#include "work/base/reading_marks.h"

#include <algorithm>
#include <nlohmann/json.hpp>

#include "store/derived_catalog.h"
#include "store/fix_body.h"
#include "store/imports.h"
#include "store/judgement.h"
#include "store/tracks.h"
#include "store/trust_marks.h"
#include "work/base/study_inputs.h"

namespace jacinth {
namespace {

constexpr Instant kBeginning(Duration::min() / 4);

/// Is any of the stretches, which are sorted and do not overlap, touched?
bool touchesAny(const std::vector<TimeRange>& stretches, TimeRange part) {
    const auto next = std::partition_point(stretches.begin(), stretches.end(),
                                           [&](const TimeRange& s) { return s.to < part.from; });
    return next != stretches.end() && next->from <= part.to;
}

}  // namespace

ReadingMarks::ReadingMarks(const Study& study)
    : study_(study), soundOnly_(study.setting(kSoundDataOnly) == "yes") {
    settings_.add(soundOnly_ ? 1 : 0);
    if (soundOnly_) settings_.add(trustSettingsText(trustSettingsOf(study)));
}

void ReadingMarks::add(const Tag& tag, const std::vector<TimeRange>& asked, Which which) {
    std::vector<TimeRange> stretches = joined(asked);
    if (stretches.empty()) return;
    samples_.add(tag.path());
    addSettings(tag, stretches);
    if (which == Which::Mended) addFixes(tag, stretches);
    const nlohmann::json definition = study_.derived().definition(tag.id);
    if (definition.contains(kExpression) && definition[kExpression].is_string())
        return addInputs(tag, definition[kExpression].get<std::string>(), stretches);
    if (definition.is_object()) samples_.add(definition.dump());
    for (const RecordPart& part : study_.imports().partsOf(tag.id)) {
        if (!touchesAny(stretches, part.range)) continue;
        samples_.add(part.import.number);
        samples_.add(part.removed ? 1 : 0);
    }
}

void ReadingMarks::addSettings(const Tag& tag, const std::vector<TimeRange>& stretches) {
    settings_.add(static_cast<int>(tag.kind));
    settings_.add(tag.longestGap.value_or(Duration::zero()));
    if (!soundOnly_) return;
    for (const TrustMark& mark : study_.judgement().trustMarks(tag.id)) {
        if (mark.signOff || !touchesAny(stretches, mark.range)) continue;
        settings_.add(mark.range.from);
        settings_.add(mark.range.to);
        settings_.add(mark.grade);
    }
}

/// A clock brings samples from where they were logged: that stretch is read as well.
void ReadingMarks::addFixes(const Tag& tag, std::vector<TimeRange>& stretches) {
    std::vector<TimeRange> more;
    for (const Fix& fix : study_.judgement().fixes(tag.id)) {
        const bool acts = fix.on && std::ranges::any_of(stretches, [&](const TimeRange& s) {
                              return fix.touches({s.from, s.to + kNanosecond});
                          });
        if (!acts) continue;
        fixes_.add(fix.from);
        fixes_.add(fix.to);
        fixes_.add(std::string(fixKindName(fix.kind())));
        fixes_.add(fixBodyText(fix.body));
        if (fix.kind() == FixKind::Clock) more.push_back({fix.from, fix.to});
        const auto* borrow = std::get_if<BorrowFix>(&fix.body);
        const Tag* twin = borrow ? study_.catalog().tag(borrow->twin) : nullptr;
        if (twin && within_.insert(tag.id).second) {
            add(Tag(*twin), {{fix.from - borrow->margin, fix.to + borrow->margin}}, Which::AsLogged);
            within_.erase(tag.id);
        }
    }
    stretches.insert(stretches.end(), more.begin(), more.end());
    stretches = joined(stretches);
}

void ReadingMarks::addInputs(const Tag& tag, const std::string& text,
                             const std::vector<TimeRange>& stretches) {
    samples_.add(text);
    if (!within_.insert(tag.id).second) return;
    if (const auto expression = compileExpression(text, namesIn(study_, tag.asset))) {
        std::vector<TimeRange> wide = stretches;
        for (TimeRange& s : wide)
            s.from = s.from - kBeginning > expression->lookBack ? s.from - expression->lookBack : kBeginning;
        for (const TagId input : tagsOf(study_, *expression, tag.asset))
            if (const Tag* t = study_.catalog().tag(input)) add(Tag(*t), wide, Which::Mended);
    }
    within_.erase(tag.id);
}

}  // namespace jacinth
