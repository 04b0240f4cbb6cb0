// What one proof leaves for the next, so that a rule is proved as quickly as it is typed.
#pragma once

#include <atomic>

#include "core/expr/kept_numbers.h"
#include "work/base/expression_over_time.h"

namespace jacinth {

/// The tags of each asset as they were read, and the figures over windows that were made of them: as long as
/// no tag changes, a proof with another number or another window works out only what is new. For a rule whose
/// tags and figures fit into the memory that is allowed; others are not kept at all.
///
/// May be used from any thread; while one uses it, it is of no use to another.
class KeptFigures {
  public:
    static constexpr std::size_t kMostBytes = 256 << 20;
    explicit KeptFigures(std::size_t mostBytes = kMostBytes) : mostBytes_(mostBytes) {}

    /// The rule on every asset that it covers, as ExpressionOverTime evaluates it; none where the rule does
    /// not fit, or another thread is at it. Fails as that does.
    Result<std::optional<std::vector<ValueOverTime>>> evaluate(Study& study, const FleetExpression& fleet,
                                                               Which which, const Progress& progress = {});
    std::size_t bytes() const { return bytes_; }

  private:
    /// One asset's.
    struct OnAsset {
        /// Of the tags behind the names that rules used: another tag in a role changes it too.
        std::map<std::string, std::string> marks;
        std::map<TagId, Signal> tags;
        KeptNumbers figures;
    };
    class Reading;
    bool fits(Study& study, const FleetExpression& fleet) const;
    void forgetWhatChanged(Study& study, const FleetExpression& fleet, Which which);
    void shrink();

    std::size_t mostBytes_;
    std::atomic<bool> inUse_ = false;
    std::string of_;  ///< study, range and data that all this is of
    std::map<AssetId, OnAsset> assets_;
    std::atomic<std::size_t> bytes_ = 0;
};

}  // namespace jacinth
