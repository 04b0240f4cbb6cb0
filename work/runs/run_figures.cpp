#include "work/runs/run_figures.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <nlohmann/json.hpp>

#include "core/base/missing.h"
#include "core/base/parse_json.h"
#include "core/base/text.h"
#include "store/json_body.h"
#include "store/tracks.h"

namespace jacinth {
namespace {

/// Columns compiled for one asset; a column that does not fit the asset has none.
struct Compiled {
    std::vector<std::optional<Expression>> columns;
    Duration lookBack{};
};

Compiled compileFor(const Study& study, AssetId asset, const std::vector<Span>& runs, RunTable& table) {
    const Names names = namesAboutRuns(study, asset, runs);
    Compiled out;
    for (RunTable::Column& c : table.columns) {
        const auto expression = compileExpression(c.column.text, names);
        if (!expression) {
            if (!c.error) c.error = expression.error();
            out.columns.emplace_back();
            continue;
        }
        c.type = expression->type;
        c.unit = expression->unit;
        out.lookBack = std::max(out.lookBack, expression->lookBack);
        out.columns.push_back(*expression);
    }
    return out;
}

SpanValue cellOf(const Span& run, const std::optional<Expression>& expression, Inputs& inputs) {
    if (!expression) return kMissing;
    auto value = evaluateAbout(run, *expression, inputs);
    return value ? *value : SpanValue(kMissing);
}

std::string exactText(const SpanValue& value) {
    if (const auto* number = std::get_if<double>(&value))
        return std::isfinite(*number) ? fmt::format("{}", *number) : "";
    if (const auto* truth = std::get_if<Truth>(&value))
        return *truth == Truth::Unknown ? "" : *truth == Truth::True ? "yes" : "no";
    return std::get<std::string>(value);
}

}  // namespace

std::vector<RunColumn> columnsOf(const Study& study, const Track& track) {
    std::vector<RunColumn> out;
    const auto d = parseJson(track.definition);
    if (d.is_object() && d.contains("columns")) {
        for (const auto& c : d["columns"]) {
            JsonBody body(c);
            out.push_back({body.text("name"), body.text("text")});
        }
        return out;
    }
    out.push_back({"", "duration"});
    std::map<std::string, std::size_t> times;
    const std::vector<Span> runs = study.tracks().spans(track.id);
    for (const Span& run : runs)
        for (const auto& [name, fact] : run.facts) ++times[name];
    for (const auto& [name, n] : times) {
        const bool plain =
            name.find_first_not_of("abcdefghijklmnopqrstuvwxyz0123456789_") == std::string::npos;
        if (name != "number" && plain && n * 2 > runs.size()) out.push_back({"", name});
    }
    return out;
}

void keepColumns(Study& study, TrackId track, const std::vector<RunColumn>& columns) {
    for (const Track& t : study.tracks().all()) {
        if (t.id != track) continue;
        auto definition = parseJson(t.definition);
        if (!definition.is_object()) definition = nlohmann::json::object();
        nlohmann::json list = nlohmann::json::array();
        for (const RunColumn& c : columns) list.push_back({{"name", c.name}, {"text", c.text}});
        definition["columns"] = list;
        study.change("columns of " + t.name, "", {{"columns", list}},
                     [&] { study.tracks().setDefinition(track, definition.dump()); });
    }
}

Result<RunTable> runFigures(Study& study, const std::vector<Span>& runs,
                            const std::vector<RunColumn>& columns, Which which, const Progress& progress) {
    RunTable out;
    for (const RunColumn& c : columns) out.columns.push_back({c, ValueType::Number, "", {}});
    std::map<AssetId, Compiled> byAsset;
    std::vector<bool> fits(columns.size(), false);
    for (const Span& run : runs) {
        if (progress.stopped(static_cast<double>(out.rows.size()) / static_cast<double>(runs.size())))
            return Error::cancelled();
        auto known = byAsset.find(run.asset);
        if (known == byAsset.end())
            known = byAsset.emplace(run.asset, compileFor(study, run.asset, runs, out)).first;
        StudyInputs inputs(study, run.asset, {run.start, run.end + kNanosecond}, known->second.lookBack,
                           which);
        RunTable::Row row{run, {}};
        const Span named = withAssetName(study, run);
        for (std::size_t i = 0; i < columns.size(); ++i) {
            row.cells.push_back(cellOf(named, known->second.columns[i], inputs));
            fits[i] = fits[i] || known->second.columns[i].has_value();
        }
        out.rows.push_back(std::move(row));
    }
    for (std::size_t i = 0; i < columns.size(); ++i)
        if (fits[i]) out.columns[i].error.reset();  // only some assets lack what it names
    return out;
}

std::string cellText(const SpanValue& value, ValueType type) {
    const auto* number = std::get_if<double>(&value);
    if (!number) return exactText(value);
    if (!std::isfinite(*number)) return {};
    if (type == ValueType::DurationValue) return sayDuration(Duration(std::llround(*number * 1e9)));
    return fmt::format("{:.5g}", *number);
}

std::string runTableCsv(const Study& study, const RunTable& table, bool guarded) {
    const auto field = [&](const std::string& text) { return guarded ? guardedField(text) : csvField(text); };
    std::string out = "asset,run,start,end";
    for (const RunTable::Column& c : table.columns) {
        std::string name = c.column.name.empty() ? c.column.text : c.column.name;
        if (!c.unit.empty()) name += " [" + c.unit + "]";
        out += "," + field(name);
    }
    out += "\n";
    for (const RunTable::Row& row : table.rows) {
        const Asset* asset = study.catalog().asset(row.run.asset);
        out += fmt::format("{},{},{},{}", field(asset ? asset->name : ""), factText(row.run.facts, "number"),
                           toIso(row.run.start), toIso(row.run.end));
        for (const SpanValue& cell : row.cells)
            out +=
                "," + (std::holds_alternative<std::string>(cell) ? field(exactText(cell)) : exactText(cell));
        out += "\n";
    }
    return out;
}

}  // namespace jacinth
