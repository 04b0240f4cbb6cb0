#include "work/label/cut_outs.h"

#include <fmt/format.h>
#include <unistd.h>

#include <algorithm>
#include <cmath>
#include <nlohmann/json.hpp>
#include <set>

#include "store/judgement.h"
#include "store/store_error.h"
#include "store/write_file.h"
#include "work/base/on_step.h"
#include "work/label/cut_out_files.h"
#include "work/label/kinds.h"
#include "work/label/label_files.h"
#include "work/label/labels.h"

namespace jacinth {
namespace {

namespace fs = std::filesystem;
using nlohmann::json;

constexpr double kMostRows = 50e6;  // of one label

/// What is to be cut out for one label.
struct Piece {
    Span label;
    Example example;
    std::vector<Tag> tags;
    Duration step{};
};

std::vector<Tag> tagsFor(const Study& study, const Span& label, const std::vector<std::string>& roles) {
    std::vector<Tag> out;
    const Catalog& catalog = study.catalog();
    if (!roles.empty()) {
        for (const std::string& role : roles)
            if (const Tag* tag = catalog.tagInRole(label.asset, role)) out.push_back(*tag);
        return out;
    }
    for (const TagId id : tagsOf(label))
        if (const Tag* tag = catalog.tag(id)) out.push_back(*tag);
    if (out.empty())
        for (const Tag& tag : catalog.tags())
            if (tag.asset == label.asset) out.push_back(tag);
    return out;
}

Duration stepOf(const std::vector<Tag>& tags, Duration asked) {
    if (asked > Duration::zero()) return asked;
    std::vector<Duration> spacings;
    for (const Tag& tag : tags) spacings.push_back(std::max<Duration>(tag.spacing, kSecond));
    const auto middle = spacings.begin() + static_cast<std::ptrdiff_t>(spacings.size() / 2);
    std::nth_element(spacings.begin(), middle, spacings.end());
    return *middle;
}

/// The runs that a stretch of an asset touches; where it touches time between two runs, that as well, by a
/// number below 0.
std::vector<std::int64_t> runsTouched(const std::vector<Span>& runs, AssetId asset, TimeRange stretch) {
    std::vector<std::int64_t> out;
    std::vector<TimeRange> covered;
    std::int64_t before = 0;
    for (const Span& run : runs) {
        if (run.asset != asset) continue;
        if (run.end <= stretch.from) before = run.id.number;
        if (run.start >= stretch.to || run.end <= stretch.from) continue;
        out.push_back(run.id.number);
        covered.push_back(run.range());
    }
    const std::vector<TimeRange> free = subtract({stretch}, joined(covered));
    if (!free.empty()) out.push_back(-(asset.number << 32) - before);
    return out;
}

class Cutter {
  public:
    Cutter(Study& study, const CutOutSpec& spec) : study_(study), spec_(spec) {}

    Status gather() {
        if (spec_.split == SplitBy::Run)
            if (const Status runs = findRuns(); !runs) return runs;
        const std::set<SpanId> wanted(spec_.labels.begin(), spec_.labels.end());
        for (Span& label : labelsOf(study_))
            if (wanted.empty() || wanted.contains(label.id)) addPiece(std::move(label));
        for (const SpanId id : wanted)
            if (std::ranges::none_of(pieces_, [&](const Piece& p) { return p.label.id == id; }) &&
                std::ranges::none_of(out_.leftOut, [&](const auto& left) { return left.first == id; }))
                return Error{fmt::format("{} is not a label", id)};
        if (pieces_.empty()) return Error{"nothing can be cut out: no label has a kind and data"};
        share();
        return Done{};
    }

    Result<CutOut> write(const fs::path& folder, const Progress& progress) {
        json labels = json::array();
        {
            const auto writer = makeCutWriter(spec_.format, folder);
            for (std::size_t i = 0; i < pieces_.size(); ++i) {
                if (progress.stopped(static_cast<double>(i) / static_cast<double>(pieces_.size())))
                    return Error::cancelled();
                if (!kept_[i]) continue;
                labels.push_back(writeOne(*writer, pieces_[i], partOf(i)));
            }
        }
        for (const auto& [name, text] :
             {std::pair("manifest.json", manifest(labels)),
              std::pair("label-book.json", bookText(study_.judgement().labelBook()))})
            if (const Status written = writeWhole((folder / name).string(), text); !written)
                return written.error();
        return std::move(out_);
    }

  private:
    Status findRuns() {
        const auto track = spec_.runs.empty() ? study_.tracks().firstOf(track_kind::kRuns)
                                              : study_.tracks().named(spec_.runs);
        if (!track || track->kind != track_kind::kRuns)
            return Error{spec_.runs.empty() ? std::string("a split by run needs runs: find them first")
                                            : fmt::format("`{}` is not a track of runs", spec_.runs)};
        runs_ = study_.tracks().spans(track->id);
        return Done{};
    }

    void addPiece(Span label) {
        const auto leave = [&](const char* why) { out_.leftOut.emplace_back(label.id, why); };
        const std::string kind = factText(label.facts, label_fact::kKind);
        if (kind.empty()) return leave("not named yet");
        Piece piece{std::move(label), {}, {}, {}};
        const TimeRange record = study_.record();
        const TimeRange cut{std::max(record.from, piece.label.start - spec_.margin),
                            std::min(record.to, piece.label.end + spec_.margin)};
        piece.tags = tagsFor(study_, piece.label, spec_.roles);
        const SpanId id = piece.label.id;
        const auto leaveIt = [&](const char* why) { out_.leftOut.emplace_back(id, why); };
        if (piece.tags.empty()) return leaveIt("its asset has none of the tags");
        if (cut.to <= cut.from) return leaveIt("outside the record");
        piece.step = stepOf(piece.tags, spec_.every);
        if (toNanoseconds(cut.length()) / toNanoseconds(piece.step) > kMostRows)
            return leaveIt("too long for this step");
        piece.example = {kind, piece.label.asset, cut, {}};
        if (spec_.split == SplitBy::Asset) piece.example.groups = {piece.label.asset.number};
        if (spec_.split == SplitBy::Run) piece.example.groups = runsTouched(runs_, piece.label.asset, cut);
        pieces_.push_back(std::move(piece));
    }

    void share() {
        std::vector<Example> examples;
        for (const Piece& p : pieces_) examples.push_back(p.example);
        parts_.assign(examples.size(), Part::Train);
        if (spec_.split) parts_ = splitApart(examples, spec_.shares, spec_.seed);
        sayMissing(examples);
        kept_.assign(examples.size(), true);
        if (!spec_.balance) return;
        kept_ = balanced(examples, parts_, spec_.seed);
        for (std::size_t i = 0; i < kept_.size(); ++i)
            if (!kept_[i]) out_.leftOut.emplace_back(pieces_[i].label.id, "left out to balance the kinds");
    }

    void sayMissing(const std::vector<Example>& examples) {
        if (!spec_.split) return;
        std::set<std::string> kinds;
        std::array<std::set<std::string>, kPartNames.size()> there;
        for (std::size_t i = 0; i < examples.size(); ++i) {
            kinds.insert(examples[i].kind);
            there[static_cast<std::size_t>(parts_[i])].insert(examples[i].kind);
        }
        for (std::size_t part = 0; part < there.size(); ++part)
            for (const std::string& kind : kinds)
                if (spec_.shares[part] > 0 && !there[part].contains(kind))
                    out_.missing.push_back(fmt::format("no {} in {}", kind, kPartNames[part]));
    }

    std::string partOf(std::size_t i) const {
        return spec_.split ? kPartNames[static_cast<std::size_t>(parts_[i])] : "all";
    }

    json writeOne(CutWriter& writer, const Piece& piece, const std::string& part) {
        CutData data{piece.example.cut.from, piece.step, piece.tags, {}};
        std::size_t missing = 0;
        for (const Tag& tag : piece.tags) {
            data.values.push_back(valuesOnStep(study_, tag, piece.example.cut, piece.step, spec_.which));
            missing += static_cast<std::size_t>(
                std::ranges::count_if(data.values.back(), [](double v) { return !std::isfinite(v); }));
        }
        json out = labelToJson(study_, piece.label);
        const Asset* asset = study_.catalog().asset(piece.label.asset);
        out["file"] = writer.write(part, piece.label, asset ? asset->name : "", data);
        out["part"] = part;
        out["cut"] = {{"start", toIso(piece.example.cut.from)}, {"end", toIso(piece.example.cut.to)}};
        out["every"] = toSeconds(piece.step);
        out["rows"] = data.rows();
        out["missing"] = static_cast<double>(missing) /
                         static_cast<double>(std::max<std::size_t>(1, data.rows() * piece.tags.size()));
        if (spec_.split == SplitBy::Run) out["runs"] = piece.example.groups;
        json columns = json::array();
        for (const Tag& tag : piece.tags)
            columns.push_back(
                {{"tag", tag.name}, {"role", tag.role}, {"unit", tag.unit}, {"states", tag.states}});
        out["columns"] = columns;
        ++out_.labels;
        ++out_.byPart[part][piece.example.kind];
        return out;
    }

    std::string manifest(const json& labels) const {
        json left = json::array();
        for (const auto& [id, why] : out_.leftOut) left.push_back({{"id", id}, {"why", why}});
        json out{{"study", fs::path(study_.path()).filename().string()},
                 {"plant", study_.plantName()},
                 {"zone", study_.zone().name()},
                 {"by", study_.who()},
                 {"made", toIso(std::chrono::floor<std::chrono::seconds>(std::chrono::system_clock::now()))},
                 {"data", spec_.which == Which::Mended ? "mended" : "as logged"},
                 {"format", spec_.format == CutFormat::Csv ? "csv" : "hdf5"},
                 {"margin", toSeconds(spec_.margin)},
                 {"balanced", spec_.balance},
                 {"split", json()},
                 {"labels", labels},
                 {"left out", left},
                 {"missing", out_.missing},
                 {"count", out_.byPart}};
        if (spec_.split)
            out["split"] = {{"by", spec_.split == SplitBy::Run ? "run" : "asset"},
                            {"shares", spec_.shares},
                            {"seed", spec_.seed}};
        return out.dump(2, ' ', false, json::error_handler_t::replace) + "\n";
    }

    Study& study_;
    const CutOutSpec& spec_;
    std::vector<Span> runs_;
    std::vector<Piece> pieces_;
    std::vector<Part> parts_;
    std::vector<bool> kept_;
    CutOut out_;
};

/// A folder that was not there before, beside the one to be; empty where none can be made. What lies there by
/// such a name is somebody's.
fs::path newFolderBeside(const fs::path& to, std::error_code& trouble) {
    if (to.has_parent_path()) fs::create_directories(to.parent_path(), trouble);
    constexpr int kMostTries = 1000;
    for (int i = 0; i < kMostTries; ++i) {
        fs::path making =
            to.parent_path() / fmt::format(".{}.part-{}-{}", to.filename().string(), ::getpid(), i);
        if (fs::create_directory(making, trouble)) return making;
        if (trouble) return {};
    }
    return {};
}

}  // namespace

Result<CutOut> cutOut(Study& study, const std::string& folder, const CutOutSpec& spec,
                      const Progress& progress) {
    std::error_code trouble;
    fs::path to = fs::path(folder).lexically_normal();
    if (!to.has_filename()) to = to.parent_path();
    if (fs::exists(to, trouble) && (!fs::is_directory(to, trouble) || !fs::is_empty(to, trouble)))
        return Error{fmt::format("{} is there and not empty: choose a new folder", folder)};
    Cutter cutter(study, spec);
    if (const Status gathered = cutter.gather(); !gathered) return gathered.error();
    // Made beside its place, and put there when it is whole.
    const fs::path making = newFolderBeside(to, trouble);
    if (making.empty()) return Error{fmt::format("{} cannot be made: {}", folder, trouble.message())};
    const auto undone = [&](const Error& error) -> Result<CutOut> {
        fs::remove_all(making, trouble);
        return error;
    };
    try {
        auto made = cutter.write(making, progress);
        if (!made) return undone(made.error());
        fs::remove(to, trouble);  // an empty folder
        fs::rename(making, to, trouble);
        if (trouble) return undone(Error{fmt::format("{}: {}", folder, trouble.message())});
        return made;
    } catch (const std::exception& e) {
        return undone(Error{e.what()});
    }
}

}  // namespace jacinth
