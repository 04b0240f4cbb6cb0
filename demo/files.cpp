// The plant's open files: wide and long samples, tables of what was written down, and the study made from
// them.
#include <fmt/format.h>

#include <cmath>
#include <filesystem>
#include <nlohmann/json.hpp>

#include "core/time/zone.h"
#include "demo/demo.h"
#include "demo/sight_glass.h"
#include "demo/written.h"
#include "store/history.h"
#include "store/judgement.h"

namespace jacinth::demo {
namespace {

/// Writes ISO times quickly: only what changed since the last one is written again.
class TimeText {
  public:
    void append(std::string& out, Instant t) {
        if (minute_ == kNoInstant || t < minute_ || t - minute_ >= kMinute) {
            minute_ = std::chrono::floor<std::chrono::minutes>(t);
            prefix_ = toIso(minute_).substr(0, 17);
        }
        const auto ms = static_cast<int>((t - minute_) / kMillisecond);
        out += prefix_;
        out += static_cast<char>('0' + ms / 10000);
        out += static_cast<char>('0' + ms / 1000 % 10);
        out += '.';
        out += static_cast<char>('0' + ms / 100 % 10);
        out += static_cast<char>('0' + ms / 10 % 10);
        out += static_cast<char>('0' + ms % 10);
        out += 'Z';
    }

  private:
    Instant minute_ = kNoInstant;
    std::string prefix_;
};

void appendDecimal(std::string& out, double v, int decimals, char mark) {
    const std::int64_t scale = decimals == 0 ? 1 : decimals == 1 ? 10 : 100;
    std::int64_t n = std::llround(v * static_cast<double>(scale));
    if (n < 0) {
        out += '-';
        n = -n;
    }
    out += std::to_string(n / scale);
    if (decimals == 0) return;
    out += mark;
    if (decimals == 2) out += static_cast<char>('0' + n % scale / 10);
    out += static_cast<char>('0' + n % 10);
}

std::string slug(const Logger& logger) {
    std::string out = "record-" + roleFromName(logger.asset + " " + logger.name);
    for (char& c : out)
        if (c == '_') c = '-';
    return out + ".csv";
}

/// A column a tag. Samples of bad quality are left out here: they stand in the flagged file, which has a
/// quality. Kiln 6 writes semicolons and decimal commas, as some loggers do.
std::string wideText(const Logger& logger) {
    const bool commas = logger.asset == "Kiln 6";
    const char separator = commas ? ';' : ',', mark = commas ? ',' : '.';
    std::string out = "time";
    for (const LoggerColumn& c : logger.columns)
        out += fmt::format("{}{}/{} [{}]", separator, logger.asset, c.tag, c.unit);
    out += '\n';
    out.reserve(logger.stamps.size() * (26 + 7 * logger.columns.size()));
    TimeText time;
    for (std::size_t i = 0; i < logger.stamps.size(); ++i) {
        time.append(out, logger.stamps[i]);
        for (const LoggerColumn& c : logger.columns) {
            out += separator;
            if (c.bad.empty() || !c.bad[i]) appendDecimal(out, c.values[i], c.decimals, mark);
        }
        out += '\n';
    }
    return out;
}

std::string longText(const Logger& logger) {
    std::string out = "time,tag,value\n";
    TimeText time;
    for (const LoggerColumn& c : logger.columns)
        for (std::size_t i = 0; i < logger.stamps.size(); ++i) {
            time.append(out, logger.stamps[i]);
            out += fmt::format(",{}/{} [{}],", logger.asset, c.tag, c.unit);
            appendDecimal(out, c.values[i], c.decimals, '.');
            out += '\n';
        }
    return out;
}

void appendFlagged(std::string& out, const Logger& logger) {
    TimeText time;
    for (const LoggerColumn& c : logger.columns)
        for (std::size_t i = 0; i < c.bad.size(); ++i) {
            if (!c.bad[i]) continue;
            time.append(out, logger.stamps[i]);
            out += fmt::format(",{}/{} [{}],", logger.asset, c.tag, c.unit);
            appendDecimal(out, c.values[i], c.decimals, '.');
            out += ",bad\n";
        }
}

std::string statesText(const Truth& truth) {
    std::string out = "time,tag,value\n";
    const Instant from = truth.spec.record().from;
    for (const KilnHistory& h : truth.kilns)
        for (std::size_t i = 0; i < h.step.size(); ++i) {
            const Instant t = from + static_cast<int>(i) * kTick;
            if (i == 0 || h.step[i] != h.step[i - 1])
                out += fmt::format("{},{}/Kiln step,{}\n", toIso(t), kilnName(h.kiln),
                                   kStepNames[static_cast<std::size_t>(h.step[i])]);
            if (i == 0 || h.burner[i] != h.burner[i - 1])
                out += fmt::format("{},{}/Burner mode,{}\n", toIso(t), kilnName(h.kiln),
                                   kBurnerNames[static_cast<std::size_t>(h.burner[i])]);
        }
    return out;
}

}  // namespace

const std::vector<std::pair<std::string, std::string>>& rolesByTag() {
    static const std::vector<std::pair<std::string, std::string>> roles{
        {"Bearing vib.", "bearing_vibration"}, {"Bed ΔP", "bed_dp"}, {"RH twin", "air_off_rh_twin"}};
    return roles;
}

void makeFiles(const Truth& truth, const std::function<void(DemoFile)>& take) {
    // States first: a tag's first samples decide what kind it is, and an engineer wants the steps at the top.
    take({"record-states.csv", "", statesText(truth)});
    std::string flagged = "time,tag,value,quality\n";
    const std::size_t empty = flagged.size();
    for (int k = 1; k <= kKilns; ++k)
        for (const Logger& logger : recordKiln(truth, k)) {
            take({slug(logger), "", logger.name == "damper" ? longText(logger) : wideText(logger)});
            appendFlagged(flagged, logger);
        }
    take({"record-weather.csv", "", wideText(recordWeather(truth))});
    if (flagged.size() > empty) take({"record-flagged.csv", "", std::move(flagged)});
    for (WrittenTable& table : writtenDown(truth))
        take({table.kind + ".csv", table.kind, std::move(table.text)});
}

namespace {

/// The camera's frames beside the study, and where they are.
Status addSightGlass(Study& study, const Truth& truth, const std::string& path) {
    const SightGlass camera = sightGlassOf(truth);
    if (camera.filmed.empty()) return Done{};
    const std::string folder = sightGlassFolder(path);
    if (const auto written = writeSightGlass(truth, folder); !written) return written.error();
    const Asset* kiln = study.catalog().assetNamed(kilnName(camera.kiln));
    EvidenceSource source;
    source.name = "Sight glass";
    source.path = std::filesystem::path(folder).filename().string();
    if (kiln) source.asset = kiln->id;
    study.change("evidence of the demo plant", "made with the plant", nlohmann::json::object(),
                 [&] { study.judgement().putEvidence(source); });
    return Done{};
}

}  // namespace

namespace {

/// Removes what was made where it does not become whole: half a plant is nobody's.
struct PartMade {
    const std::string& path;
    std::unique_ptr<Study>& study;
    bool whole = false;
    ~PartMade() {
        if (whole) return;
        study.reset();
        std::error_code none;
        for (const char* end : {"", "-wal", "-shm"}) std::filesystem::remove(path + end, none);
    }
};

}  // namespace

Result<std::unique_ptr<Study>> makeStudy(const Truth& truth, const std::string& path,
                                         const Progress& progress) {
    auto made = Study::create(path);
    if (!made) return made.error();
    Study& study = **made;
    PartMade part{path, *made};
    study.setSetting("plant", "Corvane Maltings");
    study.setSetting("zone", "Europe/Oslo");
    std::optional<Error> failure;
    int done = 0;
    makeFiles(truth, [&](const DemoFile& file) {
        if (failure) return;
        const TextSource source{file.name, file.text};
        const auto result = file.eventKind.empty() ? importSamples(study, source, {})
                                                   : importEvents(study, source, file.eventKind, {});
        if (!result)
            failure = result.error();
        else if (result->badRowCount > 0)
            failure = Error{file.name + ": " + result->badRows[0].reason};
        if (!failure && progress.stopped(std::min(0.99, ++done / 40.0))) failure = Error::cancelled();
    });
    if (failure) return *failure;
    study.change("roles and facts of the demo plant", "made with the plant", nlohmann::json::object(), [&] {
        for (const auto& [name, role] : rolesByTag())
            for (Tag tag : std::vector<Tag>(study.catalog().tags()))
                if (tag.name == name) {
                    tag.role = role;
                    study.catalog().updateTag(tag);
                }
        for (Tag tag : std::vector<Tag>(study.catalog().tags())) {
            if (tag.role == "kiln_step") tag.facts["rest states"] = std::string("Idle");
            if (tag.role == "burner_mode") tag.facts["rest states"] = std::string("Off");
            if (tag.facts.contains("rest states")) study.catalog().updateTag(tag);
        }
        study.judgement().setLabelBook(
            {{"bearing wear", "Vibration rises with no change of load", "#882255", 'b', false},
             {"air path", "Air flow lost or bed not even", "#999933", 'a', false},
             {"over-temperature", "Hotter than the recipe asks for", "#CC6677", 't', false},
             {"flame loss", "Burner lost its flame", "#332288", 'f', false},
             {"sensor fault", "The sensor, not the process", "#88CCEE", 's', false},
             {"normal", "An example of nothing being wrong", "#117733", 'n', true}});
        // Kiln 4 is built differently; its fact sheet does not say so.
        for (const Asset& a : study.catalog().assets())
            if (a.kind == "Kiln")
                study.catalog().setAssetFacts(
                    a.id, {{"type", std::string("single floor, 42 t")}, {"built", 2009.0}});
    });
    if (const Status camera = addSightGlass(study, truth, path); !camera) return camera.error();
    study.history().forget();  // there is nothing of the engineer's to undo yet
    study.foldJournal();
    study.reload();
    part.whole = true;
    return made;
}

}  // namespace jacinth::demo
