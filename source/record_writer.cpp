#include "source/record_writer.h"

#include <fmt/format.h>
#include <tbb/parallel_for.h>

#include <algorithm>
#include <cmath>
#include <nlohmann/json.hpp>

#include "core/base/units.h"
#include "core/base/utf8.h"
#include "core/series/text_value.h"
#include "store/coded_times.h"
#include "store/derived_catalog.h"
#include "store/history.h"
#include "store/imports.h"
#include "store/sample_store.h"
#include "store/tag_kind.h"

namespace jacinth {
namespace {

constexpr std::size_t kBatchSamples = 4'000'000;      // gathered between two commits: about 64 MB
constexpr std::size_t kMostHeldSamples = 16'000'000;  // of tags too thin for a block of their own yet
constexpr std::size_t kWorthStoring = kBlockSamples / 2;
}  // namespace

struct RecordWriter::Target {
    std::string path;
    MappedName name;
    std::string sourceName, unit;
    TagId tag;                       ///< 0 until it is first stored
    std::optional<TagKind> kind;     ///< none while all its values were texts without a meaning of their own
    Series series;                   ///< states and texts as places in `texts`
    std::vector<std::string> texts;  ///< in order of first sight, this import
    std::unordered_map<std::string, std::uint32_t> places;
    std::vector<int> codes;  ///< the study's code of each

    std::uint32_t placeOf(const std::string& text) {
        const auto [at, fresh] = places.try_emplace(text, static_cast<std::uint32_t>(texts.size()));
        if (fresh) texts.push_back(text);
        return at->second;
    }
    /// Replaces places by what `codeOf` says of them.
    template <typename F>
    static void recode(Series& s, bool states, F codeOf) {
        for (double& v : s.values)
            if (const auto place = textOfValue(v))
                v = valueOfText(static_cast<std::uint32_t>(codeOf(*place)));
            else if (states && std::isfinite(v))
                v = static_cast<double>(codeOf(static_cast<std::uint32_t>(v)));
    }
};

RecordWriter::RecordWriter(Study& study, const SourceFacts& source, const TagKinds& kinds, OtherUnits units,
                           ImportResult& result)
    : study_(study), kinds_(kinds), units_(units), result_(result) {
    record_.file = asUtf8(source.name, 1000);
    record_.kind = source.kind;
    record_.bytes = source.bytes;
}

RecordWriter::~RecordWriter() = default;

void RecordWriter::add(RecordBlock& block) {
    for (const auto& tag : block.tags) addTag(*tag);
    result_.badRowCount += block.aside.rows;
    result_.badCellCount += block.aside.cells;
    for (BadRow& row : block.aside.kept) {
        if (result_.badRows.size() < kBadRowsShown) result_.badRows.push_back(row);
        if (badKept_ + bad_.size() < kMostBadRows) bad_.push_back(std::move(row));
    }
    for (const auto& [text, count] : block.noValue) result_.noValue[text] += count;
    result_.rows += block.rows;
}

namespace {

/// But for its unit, and blanks around the slash.
bool isSameName(const std::string& a, const std::string& b) {
    const MappedName one = cutAtFirstSlash(a, {}), other = cutAtFirstSlash(b, {});
    return one.asset == other.asset && one.tag == other.tag;
}

[[noreturn]] void refuse(const std::vector<std::string>& clashes) {
    throw StoreError(clashes.empty() ? "two names of the source would be one tag" : clashes.back());
}

}  // namespace

void RecordWriter::addTag(TagBlock& block) {
    auto& slot = targets_[block.path];
    if (!slot) {
        slot = std::make_unique<Target>();
        order_.push_back(slot.get());
        slot->path = block.path;
        slot->name = block.name;
        slot->sourceName = block.sourceName;
        const auto [seen, isNew] = groupsOf_.try_emplace(block.name.asset, block.name.assetFacts);
        if (!isNew && seen->second != block.name.assetFacts)
            refuse(clashesOf({{slot->sourceName, {block.name.asset, {}, {}, {}, seen->second, {}}},
                              {block.sourceName, block.name}}));
        const Tag* known = study_.catalog().find(block.path);
        slot->unit = known && !known->unit.empty() ? known->unit : block.name.unit;
    }
    Target& t = *slot;
    if (!isSameName(t.sourceName, block.sourceName))
        refuse(clashesOf({{t.sourceName, t.name}, {block.sourceName, block.name}}));
    bringToUnit(t, block);
    if (const auto known = kinds_.of(block.path); known && t.kind != *known) {
        t.kind = *known;
        if (t.kind == TagKind::State) turnIntoStates(t);
    }
    if (!block.texts.empty()) {
        std::vector<std::uint32_t> place;
        for (const std::string& text : block.texts) place.push_back(t.placeOf(text));
        Target::recode(block.series, t.kind == TagKind::State, [&](std::uint32_t p) { return place[p]; });
    }
    waiting_ += block.series.size();
    fresh_ += block.series.size();
    if (t.series.empty())
        t.series = std::move(block.series);
    else
        t.series.append(block.series);
}

/// Samples in another unit than the tag's are not mixed in without a word.
void RecordWriter::bringToUnit(Target& t, TagBlock& block) {
    if (t.unit.empty()) t.unit = block.name.unit;
    const bool numbers = t.kind.value_or(block.kind.value_or(TagKind::Continuous)) != TagKind::State;
    if (!numbers || block.name.unit.empty() || isSameUnit(block.name.unit, t.unit) ||
        units_ == OtherUnits::Keep)
        return;
    const auto conversion = unitConversion(block.name.unit, t.unit);
    if (units_ == OtherUnits::Refuse || !conversion)
        throw StoreError(fmt::format(
            "{} is in {}, and {} has it in {}{}", t.path, t.unit, record_.file, block.name.unit,
            !conversion ? ", which cannot be converted; say that its numbers are to be taken as they are, or "
                          "give the tag of the file another name"
                        : "; say whether to convert its values or to take its numbers as they are"));
    for (double& v : block.series.values)
        if (std::isfinite(v)) v = (*conversion)(v);
    std::string note = fmt::format("{}: converted from {} to {}", t.path, block.name.unit, t.unit);
    if (std::find(result_.notes.begin(), result_.notes.end(), note) == result_.notes.end())
        result_.notes.push_back(std::move(note));
}

/// A tag that had only texts like `No Data` so far turns out to have states: these texts are states as well.
void RecordWriter::turnIntoStates(Target& t) {
    for (double& v : t.series.values)
        if (const auto place = textOfValue(v)) v = *place;
    if (!t.series.quality.empty())
        std::replace(t.series.quality.begin(), t.series.quality.end(), Quality::Bad, Quality::Good);
    if (!t.tag) return;
    WriteBatch transaction(study_);
    changeTagKind(study_, t.tag, TagKind::State);
    transaction.commit();
}

bool RecordWriter::full() const {
    return fresh_ >= kBatchSamples;
}

bool RecordWriter::nothingRead() const {
    return result_.rows > 0 && result_.badRowCount + result_.badCellCount > 0 && waiting_ == 0 && !record_.id;
}

void RecordWriter::commit(bool complete) {
    std::vector<Target*> due;
    const bool all = complete || waiting_ >= kMostHeldSamples;
    for (Target* t : order_)
        if (!t->series.empty() && (all || t->series.size() >= kWorthStoring)) due.push_back(t);
    makeTags(due);
    std::vector<PreparedWrite> writes;
    for (Target* t : due) writes.push_back(study_.samples().prepare(t->tag, t->series));
    CodedTimes times;
    tbb::parallel_for(std::size_t{0}, writes.size(),
                      [&](std::size_t i) { SampleStore::code(writes[i], times); });
    store(writes, due, complete);
    for (Target* t : due) {
        waiting_ -= t->series.size();
        t->series.clear();
    }
    fresh_ = 0;
}

/// Tags and states that the study does not have yet, and codes in place of places. Another program may have
/// made the same tags since the study was last read.
void RecordWriter::makeTags(const std::vector<Target*>& due) {
    WriteBatch transaction(study_);
    study_.refresh();
    if (!record_.id) {
        result_.import = record_.id = study_.imports().begin(record_);
        study_.history().noteImport(record_.id, "import " + record_.file);
    }
    for (Target* t : due) {
        if (!t->tag) makeTag(*t);
        while (t->codes.size() < t->texts.size())
            t->codes.push_back(study_.catalog().addState(t->tag, t->texts[t->codes.size()]));
        if (!t->texts.empty())
            Target::recode(t->series, t->kind == TagKind::State,
                           [&](std::uint32_t place) { return t->codes[place]; });
    }
    transaction.commit();
}

/// With the role and the facts that its name gives; what an asset has already stays.
TagId RecordWriter::addTag(const Target& target, TagKind kind) {
    Catalog& catalog = study_.catalog();
    const AssetId asset = catalog.addAsset(target.name.asset);
    Facts facts = catalog.asset(asset)->facts;
    for (const auto& [name, value] : target.name.assetFacts) facts.try_emplace(name, value);
    if (facts.size() != catalog.asset(asset)->facts.size()) catalog.setAssetFacts(asset, facts);
    const TagId id = catalog.addTag(asset, target.name.tag, target.unit, kind);
    const std::string& role = target.name.role;
    const bool free = !role.empty() && !catalog.tagInRole(asset, role);
    if (!free && target.name.tagFacts.empty()) return id;
    Tag tag = *catalog.tag(id);
    if (free) tag.role = role;
    for (const auto& [name, value] : target.name.tagFacts) tag.facts.try_emplace(name, value);
    catalog.updateTag(tag);
    return id;
}

void RecordWriter::makeTag(Target& target) {
    Catalog& catalog = study_.catalog();
    const TagKind kind = target.kind.value_or(TagKind::Continuous);
    const Tag* found = catalog.find(target.path);
    const std::optional<Tag> known = found ? std::optional(*found) : std::nullopt;
    if (known && study_.derived().definition(known->id).contains(kExpression))
        throw StoreError(
            fmt::format("`{}` is given by an expression and takes no samples from a source", target.path));
    if (known && (known->kind == TagKind::State) != (kind == TagKind::State))
        throw StoreError(fmt::format("another program made `{}` meanwhile, as {} tag; import again",
                                     target.path, known->kind == TagKind::State ? "a state" : "a number"));
    target.tag = known ? known->id : addTag(target, kind);
    // A unit that an earlier file did not say is taken from this one.
    if (known && known->unit.empty() && !target.unit.empty()) {
        Tag tag = *known;
        tag.unit = target.unit;
        catalog.updateTag(tag);
    }
}

void RecordWriter::store(std::vector<PreparedWrite>& writes, const std::vector<Target*>& due, bool complete) {
    WriteBatch transaction(study_);
    for (std::size_t i = 0; i < writes.size(); ++i) {
        PreparedWrite& w = writes[i];
        while (!study_.samples().apply(w)) {
            // Another program wrote to this tag since: with the file locked, what is there now stays there.
            w = study_.samples().prepare(due[i]->tag, due[i]->series);
            SampleStore::code(w);
        }
        study_.imports().keepPart(record_.id, w);
        result_.samples += w.count.added;
        result_.replaced += w.count.replaced;
        result_.unchanged += w.count.unchanged;
        result_.sameTime += static_cast<std::int64_t>(due[i]->series.size()) - w.count.added -
                            w.count.replaced - w.count.unchanged;
        study_.catalog().setSpacing(w.tag, study_.samples().spacing(w.tag));
    }
    for (const BadRow& row : bad_) study_.imports().keepBadRow(record_.id, row);
    badKept_ += bad_.size();
    bad_.clear();
    keepRecord(complete);
    transaction.commit();
}

void RecordWriter::keepRecord(bool complete) {
    record_.rows = result_.rows;
    record_.samples = result_.samples;
    record_.replaced = result_.replaced;
    record_.badRows = result_.badRowCount;
    record_.badCells = result_.badCellCount;
    record_.complete = complete;
    study_.imports().update(record_);
    if (complete)
        study_.history().enterInLedger("import " + record_.file, "",
                                       {{"rows", result_.rows},
                                        {"samples", result_.samples},
                                        {"replaced", result_.replaced},
                                        {"badRows", result_.badRowCount},
                                        {"badCells", result_.badCellCount}});
}

void RecordWriter::listTags() {
    for (const Target* target : order_) result_.tags.push_back(target->path);
}

void ImportResult::add(const ImportResult& next) {
    rows += next.rows;
    badRowCount += next.badRowCount;
    badCellCount += next.badCellCount;
    samples += next.samples;
    replaced += next.replaced;
    unchanged += next.unchanged;
    sameTime += next.sameTime;
    const std::size_t room = kBadRowsShown - std::min(kBadRowsShown, badRows.size());
    badRows.insert(badRows.end(), next.badRows.begin(),
                   next.badRows.begin() + static_cast<std::ptrdiff_t>(std::min(room, next.badRows.size())));
    for (const auto& [text, count] : next.noValue) noValue[text] += count;
    tags.insert(tags.end(), next.tags.begin(), next.tags.end());
    std::sort(tags.begin(), tags.end());
    tags.erase(std::unique(tags.begin(), tags.end()), tags.end());
    notes.insert(notes.end(), next.notes.begin(), next.notes.end());
    cancelled = next.cancelled;
}

}  // namespace jacinth
