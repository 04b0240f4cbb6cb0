// Whose step it is: the fewest tags whose steps at one moment explain what the remainders of all tags did
// there.
#pragma once

#include <optional>

#include "core/steps/remainders.h"

namespace jacinth {

/// Steps of some tags at one moment.
struct Explanation {
    std::vector<std::size_t> tags;
    std::vector<double> sizes;
    double cost = 0;  ///< −2 · log-likelihood

    Remainders::Steps steps() const;
    double sizeOf(std::size_t tag) const;  ///< of one that is in it
};

class StepExplainer {
  public:
    /// Keeps references to all.
    StepExplainer(const std::vector<TagScan>& asset, const BlockGrid& grid, const Remainders& remainders);

    /// A step of a tag shows in its own remainder, and in that of every tag that it is a companion of, by its
    /// coefficient; the tags whose steps are likeliest are taken, one, or two where one leaves something
    /// over, or more. A step that would show from one sample to the next and does not is none. `reach`: of
    /// the differences compared. Empty where no tag can have stepped.
    Explanation explain(std::size_t block, std::size_t reach) const;
    /// A remainder that moved by more than its error and the errors of what the steps do to it.
    bool leavesOver(const Explanation& e, std::size_t block, std::size_t reach) const;
    /// Other tags jump with it and stay there, and no more remains than at times when companions move so far:
    /// they do not say how it goes with them, so it may be the process.
    bool processMoved(const Explanation& e, std::size_t block, std::size_t reach) const;
    /// The tag of it that moved most for its error.
    std::size_t mainOf(const Explanation& e, std::size_t block, std::size_t reach) const;

    /// The clearest jump of a tag within forty minutes of a block, of that sign and about that size.
    std::optional<Jump> jumpNear(std::size_t tag, std::size_t block, double size) const;
    /// The block that holds the jump of that tag near `block`, or else the one at which two levels fit best.
    std::size_t locate(std::size_t tag, std::size_t block, double size) const;

  private:
    using Tags = std::vector<std::size_t>;
    Explanation fit(const Tags& tags, std::size_t block, std::size_t reach) const;
    Explanation fitOnce(const Tags& tags, std::size_t block, std::size_t reach,
                        const Remainders::Steps& without) const;
    bool isPossible(const Explanation& e, std::size_t block, std::size_t reach) const;
    bool isContradicted(std::size_t tag, std::size_t block, double size) const;
    bool isSampled(std::size_t tag, std::size_t block) const;
    Explanation withMore(Explanation e, std::size_t block, std::size_t reach) const;

    const std::vector<TagScan>& asset_;
    const BlockGrid& grid_;
    const Remainders& remainders_;
    std::vector<bool> sparse_;  // more than a tenth of a tag's blocks are empty
};

}  // namespace jacinth
