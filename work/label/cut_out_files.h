// The data of one label, written as CSV or HDF5.
#pragma once

#include <filesystem>
#include <memory>

#include "core/label/split.h"
#include "store/catalog.h"
#include "store/tracks.h"
#include "work/label/cut_outs.h"

namespace jacinth {

/// Values of tags at equal steps from `from`.
struct CutData {
    Instant from;
    Duration step;
    std::vector<Tag> tags;
    std::vector<std::vector<double>> values;  ///< by tag; NaN where nothing is known
    std::size_t rows() const { return values.empty() ? 0 : values.front().size(); }
};

/// Writes label after label; throws StoreError where the disk fails.
class CutWriter {
  public:
    virtual ~CutWriter() = default;
    /// The file it went to, and the place in it, as the manifest says it.
    virtual std::string write(const std::string& part, const Span& label, const std::string& asset,
                              const CutData& data) = 0;
};
std::unique_ptr<CutWriter> makeCutWriter(CutFormat format, std::filesystem::path folder);

}  // namespace jacinth
