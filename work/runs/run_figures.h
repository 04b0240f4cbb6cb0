// Figures of runs: a column an expression about a run, a row a run.
#pragma once

#include "core/base/progress.h"
#include "store/tracks.h"
#include "work/runs/find_runs.h"

namespace jacinth {

struct RunColumn {
    std::string name;  ///< shown; the text itself where empty
    std::string text;  ///< an expression about a run: `mean(@gas_flow)`, `product`, `duration`
    bool operator==(const RunColumn&) const = default;
};

/// The columns of a track of runs, as chosen; else duration and the facts that most runs have.
std::vector<RunColumn> columnsOf(const Study& study, const Track& track);
/// Keeps them with the track, as one undoable change.
void keepColumns(Study& study, TrackId track, const std::vector<RunColumn>& columns);

struct RunTable {
    struct Column {
        RunColumn column;
        ValueType type = ValueType::Number;
        std::string unit;
        std::optional<Error> error;  ///< it does not compile: its cells are empty
    };
    struct Row {
        Span run;
        std::vector<SpanValue> cells;  ///< NaN where there is no value; durations in seconds
    };
    std::vector<Column> columns;
    std::vector<Row> rows;  ///< in the order of the runs given
};

/// Works out every column for every run. Fails only when it is stopped.
Result<RunTable> runFigures(Study& study, const std::vector<Span>& runs,
                            const std::vector<RunColumn>& columns, Which which = Which::Mended,
                            const Progress& progress = {});

/// One cell in words, without unit: `21 h 40 min`, `412.6`, `Pale`; empty where there is no value.
std::string cellText(const SpanValue& value, ValueType type);
/// As a CSV file: asset, run, start, end (ISO 8601), then the columns in full digits, durations in seconds.
/// With `guarded`, texts are safe to open in a spreadsheet (see guardedField).
std::string runTableCsv(const Study& study, const RunTable& table, bool guarded = false);

}  // namespace jacinth
