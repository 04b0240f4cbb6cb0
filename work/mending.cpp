#include "work/mending.h"

#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>

namespace jacinth {
namespace {

nlohmann::json detailOf(const Fix& f) {
    return {{"tag", f.tag},
            {"from", toIso(f.from)},
            {"to", toIso(f.to)},
            {"startBy", f.startBy},
            {"endBy", f.endBy}};
}

Result<Fix> findFix(const Study& study, std::int64_t id) {
    for (const Fix& f : study.allFixes())
        if (f.id == id) return f;
    return Error{fmt::format("there is no fix {}", id)};
}

}  // namespace

std::string fixName(const Study& study, const Fix& fix) {
    const Tag* tag = study.catalog().tag(fix.tag);
    return fmt::format("{} on {} {}", fixKindName(fix.kind), tag ? tag->assetName : "", tag ? tag->name : "");
}

Result<std::int64_t> enterFix(Study& study, const Fix& fix) {
    if (const Status valid = validateFix(fix); !valid) return valid.error();
    const Tag* tag = study.catalog().tag(fix.tag);
    if (!tag) return Error{"there is no such tag"};
    if (tag->kind == TagKind::State)
        return Error{fmt::format("{} holds states; a {} needs numbers", tag->path(), fixKindName(fix.kind))};
    std::int64_t id = 0;
    study.change(fixName(study, fix), fix.why, detailOf(fix), [&] { id = study.addFix(fix); });
    return id;
}

Status switchFix(Study& study, std::int64_t id, bool on) {
    const auto fix = findFix(study, id);
    if (!fix) return fix.error();
    study.change(fmt::format("{} {}", fixName(study, *fix), on ? "switched on" : "switched off"), "",
                 detailOf(*fix), [&] { study.setFixOn(id, on); });
    return Done{};
}

Status takeFixAway(Study& study, std::int64_t id) {
    const auto fix = findFix(study, id);
    if (!fix) return fix.error();
    study.change(fmt::format("{} removed", fixName(study, *fix)), "", detailOf(*fix),
                 [&] { study.removeFix(id); });
    return Done{};
}

Result<RampFit> fitToReadings(Study& study, const Tag& tag, TimeRange stretch,
                              std::optional<double> fixedStart) {
    const Series series = study.readForFigures(tag, {stretch.from, stretch.to + 1}, Which::Mended);
    return fitRamp(series, tag.bridging(), stretch, study.checkReadings(tag.id), fixedStart);
}

Status addLabelKind(Study& study, const LabelKind& kind) {
    if (const Status good = checkName(kind.name, "a kind of label"); !good) return good;
    LabelBook book = study.labelBook();
    if (findKind(book, kind.name)) return Error{fmt::format("there is a kind `{}` already", kind.name)};
    for (const LabelKind& k : book)
        if (kind.key && k.key == kind.key)
            return Error{fmt::format("`{}` has the key {} already", k.name, kind.key)};
    if (kind.colour.size() != 7 || kind.colour[0] != '#' ||
        kind.colour.find_first_not_of("0123456789abcdefABCDEF", 1) != std::string::npos)
        return Error{"a colour is like #8A4FA3"};
    book.push_back(kind);
    study.change("kind of label " + kind.name, "",
                 {{"meaning", kind.meaning},
                  {"colour", kind.colour},
                  {"key", kind.key ? std::string(1, kind.key) : std::string()},
                  {"normal", kind.normal}},
                 [&] { study.setLabelBook(book); });
    return Done{};
}

Result<std::int64_t> addLabelled(Study& study, const Span& given, const std::string& kind,
                                 const std::string& note) {
    if (given.end <= given.start) return Error{"a label needs a start and a later end"};
    const LabelBook book = study.labelBook();
    if (!kind.empty() && !findKind(book, kind)) {
        std::vector<std::string> known;
        for (const LabelKind& k : book) known.push_back(k.name);
        return Error{fmt::format("`{}` is not in the label book; it has {}", kind, fmt::join(known, ", "))};
    }
    Span span = given;
    if (!kind.empty()) span.facts["kind"] = kind;
    if (!note.empty()) span.facts["note"] = note;
    span.facts["by"] = study.who();
    std::int64_t id = 0;
    const Asset* asset = study.catalog().asset(span.asset);
    study.change(fmt::format("label on {}", asset ? asset->name : "the plant"), "",
                 {{"kind", kind}, {"start", toIso(span.start)}, {"end", toIso(span.end)}},
                 [&] { id = study.addSpan(study.putTrack("Labels", track_kind::kLabels), span); });
    return id;
}

Status changeLabel(Study& study, const Span& span, const std::string& name) {
    if (span.end <= span.start) return Error{"a label needs a start and a later end"};
    study.change(name, "",
                 {{"id", span.id},
                  {"start", toIso(span.start)},
                  {"end", toIso(span.end)},
                  {"kind", factText(span.facts, "kind")}},
                 [&] { study.updateSpan(span); });
    return Done{};
}

Status removeLabel(Study& study, std::int64_t id) {
    if (!study.span(id)) return Error{fmt::format("there is no label {}", id)};
    study.change("remove label", "", {{"id", id}}, [&] { study.removeSpan(id); });
    return Done{};
}

}  // namespace jacinth
