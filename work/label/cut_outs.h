// Labels taken away as data: the stretch of each, in open formats, split and with a manifest of what was
// done.
#pragma once

#include <array>
#include <optional>

#include "core/base/progress.h"
#include "core/label/split.h"
#include "store/study.h"

namespace jacinth {

enum class CutFormat { Csv, Hdf5 };
enum class SplitBy { Run, Asset };

struct CutOutSpec {
    std::vector<SpanId> labels;      ///< all that have a kind where empty
    std::vector<std::string> roles;  ///< of the tags; those the label is about, else all of the asset, where
                                     ///< empty
    CutFormat format = CutFormat::Csv;
    Duration every{};   ///< step; the median spacing of a label's tags where 0
    Duration margin{};  ///< before and after
    std::optional<SplitBy> split;
    std::array<double, 3> shares{0.7, 0.15, 0.15};  ///< train, validation, test
    std::uint64_t seed = 1;
    /// As many of each kind that is in a part, in that part; a part can lack a kind altogether.
    bool balance = false;
    Which which = Which::Mended;
    std::string runs;  ///< track of runs that the split goes by; the first there is where empty
};

struct CutOut {
    std::size_t labels = 0;
    std::map<std::string, std::map<std::string, std::size_t>> byPart;  ///< part → kind → how many
    std::vector<std::pair<SpanId, std::string>> leftOut;               ///< and why
    /// Kinds that a part lacks, in words: `no surge in validation`. A part that is to stay empty lacks
    /// nothing.
    std::vector<std::string> missing;
};

/// Writes into a new or empty folder: `manifest.json`, `label-book.json`, and the data. CSV: a file a label,
/// `train/label-17.csv`, with `time` (ISO 8601, UTC) and a column a tag, states by name, empty where nothing
/// is known. HDF5: a file a part, `train.h5`, with a group a label (`label-17`; attributes kind, asset,
/// start, end) that has `time` (int64, ns since 1970, UTC) and a dataset a tag (float64, NaN where nothing is
/// known; attribute `unit`, and of a state tag `states`, which its numbers count). Values are those at the
/// moments of the step. Without a split the part is `all`.
///
/// By run: all labels whose cut stretch touches one run are in one part; time between two runs counts as a
/// run of its own. By asset: all of an asset. What overlaps stays together (core/label/split.h).
///
/// Nothing is left behind where it fails or is stopped. Fails on a folder with something in it, where there
/// is nothing to write, and where a split has nothing to go by.
Result<CutOut> cutOut(Study& study, const std::string& folder, const CutOutSpec& spec,
                      const Progress& progress = {});

}  // namespace jacinth
