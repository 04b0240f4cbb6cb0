#include "work/mend/stuck_search.h"

#include <fmt/format.h>

#include <nlohmann/json.hpp>

#include "core/base/missing.h"
#include "store/derived_catalog.h"
#include "work/mend/fix_in_hand.h"

namespace jacinth {
namespace {

std::vector<Tag> tagsToLookAt(const Study& study, const StuckQuestion& question) {
    std::vector<Tag> out;
    for (const Tag& tag : study.catalog().tags()) {
        const bool wanted =
            question.tag ? tag.id == question.tag
                         : question.assets.empty() || std::ranges::count(question.assets, tag.asset) > 0;
        if (wanted && tag.kind == TagKind::Continuous && study.derived().definition(tag.id).is_null())
            out.push_back(tag);
    }
    return out;
}

void lookBeside(const Study& study, const Tag& tag, FoundStuck& found) {
    found.besideMoved = kMissing;
    for (const Tag& other : possibleTwins(study, tag)) {
        if (other.asset != tag.asset || other.kind != TagKind::Continuous) continue;
        found.beside = other.id;
        const TimeRange range{found.stretch.range.from, found.stretch.range.to + kNanosecond};
        const Series read = study.readForFigures(other, range, Which::Mended);
        const SeriesView inside = read.view().within(range);
        double least = kMissing, greatest = kMissing;
        for (std::size_t i = 0; i < inside.size(); ++i)
            if (inside.usable(i)) {
                least = std::fmin(least, inside.values[i]);
                greatest = std::fmax(greatest, inside.values[i]);
            }
        found.besideMoved = greatest - least;
        return;
    }
}

}  // namespace

Result<std::vector<FoundStuck>> findStuck(const Study& study, const StuckQuestion& question,
                                          const Progress& progress) {
    const std::vector<Tag> tags = tagsToLookAt(study, question);
    const TimeRange range = question.range.length() > Duration::zero() ? question.range : study.record();
    std::vector<FoundStuck> out;
    for (std::size_t i = 0; i < tags.size(); ++i) {
        const double done = static_cast<double>(i) / static_cast<double>(tags.size());
        if (progress.stopped(done)) return Error::cancelled();
        const Series read = study.read(tags[i], range, Which::Mended);
        const Progress part = progress.part(done, done + 1.0 / static_cast<double>(tags.size()));
        for (const StuckStretch& stretch : stuckStretches(read.view().within(range), question.search, part)) {
            FoundStuck found{tags[i].id, stretch, {}, 0};
            lookBeside(study, tags[i], found);
            out.push_back(found);
        }
    }
    if (progress.stopped(1)) return Error::cancelled();
    return out;
}

std::string stuckSentence(const Study& study, const FoundStuck& found) {
    const Tag* tag = study.catalog().tag(found.tag);
    const Tag* beside = study.catalog().tag(found.beside);
    const auto unit = [](const Tag* t) { return t && !t->unit.empty() ? " " + t->unit : std::string(); };
    std::string out =
        fmt::format("{} reads {:.6g}{} for {} ({} samples; usual are up to {}).", tag ? tag->path() : "?",
                    found.stretch.value, unit(tag), sayDuration(found.stretch.range.length()),
                    found.stretch.samples, found.stretch.usual);
    if (beside && std::isfinite(found.besideMoved))
        out += fmt::format(" {} moved by {:.4g}{} meanwhile.", beside->name, found.besideMoved, unit(beside));
    return out;
}

}  // namespace jacinth
