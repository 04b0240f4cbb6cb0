// What companions leave unexplained of every tag of an asset, and the subtraction of steps from it.
#pragma once

#include <array>

#include "core/steps/companions.h"
#include "core/steps/tag_scan.h"

namespace jacinth {

/// What remains of every tag of an asset, its differences over an hour and over four at each block, and how
/// far such a difference goes by chance.
class Remainders {
  public:
    static constexpr std::size_t kReaches = 2;
    static constexpr double kExplained = 0.7;
    using Steps = std::vector<std::pair<std::size_t, double>>;  ///< tags and their sizes, at one moment

    /// Keeps references to both.
    Remainders(const std::vector<TagScan>& asset, const BlockGrid& grid);

    std::size_t count() const { return tags_.size(); }
    /// Companions leave at most 0.7 of what an hour's differences of the tag usually are: what remains can be
    /// judged.
    bool hasCompanions(std::size_t tag) const {
        return !companions_[tag].terms.empty() && usual(tag, 0) < kExplained * usualOwn(tag, 0);
    }
    const Companions& companions(std::size_t tag) const { return companions_[tag]; }
    const std::vector<double>& levels(std::size_t tag) const { return tags_[tag].levels[kLeft]; }

    /// Of the remainder; NaN where it is not known.
    double left(std::size_t tag, std::size_t block, std::size_t reach) const {
        return tags_[tag].difference[kLeft][reach][block];
    }
    /// Of the tag itself.
    double own(std::size_t tag, std::size_t block, std::size_t reach) const {
        return tags_[tag].difference[kOwn][reach][block];
    }
    /// How far what companions say of the tag moved, without the given steps: the root of the squares of
    /// what each says; 0 where none is known.
    double moved(std::size_t tag, std::size_t block, std::size_t reach, const Steps& without = {}) const;
    double usual(std::size_t tag, std::size_t reach) const { return tags_[tag].usual[kLeft][reach]; }
    double usualOwn(std::size_t tag, std::size_t reach) const { return tags_[tag].usual[kOwn][reach]; }
    /// Of the remainder at a block: what is usual, and as much of what companions say as usually remains
    /// where they move far.
    double error(std::size_t tag, std::size_t block, std::size_t reach, const Steps& without = {}) const;
    /// Of what companions say of a tag that remains where they move far.
    double shareLeft(std::size_t tag, std::size_t reach) const { return tags_[tag].share[reach].usual; }
    /// The same at most, one time in fifty excepted.
    double mostShareLeft(std::size_t tag, std::size_t reach) const { return tags_[tag].share[reach].most; }
    /// |left| over its error, of the reach that says most; 0 where nothing is known.
    double score(std::size_t tag, std::size_t block) const { return tags_[tag].score[block]; }
    /// A score that chance reaches in one tag and record of fifty.
    double threshold(std::size_t tag) const { return tags_[tag].threshold; }

    /// What a step of 1 of a tag does to the remainder of another.
    double effect(std::size_t on, std::size_t of) const {
        return on == of ? 1 : -companions_[on].effectOf(of);
    }
    /// Takes a step of a tag out of all levels: from the block after `block` on.
    void takeOut(std::size_t tag, std::size_t block, double size);

  private:
    enum Of { kOwn, kLeft };
    struct Share {
        double usual = 0, most = 0;
    };
    struct Tag {
        std::array<std::vector<double>, 2> levels;
        std::array<std::array<std::vector<double>, kReaches>, 2> difference;
        std::array<std::array<double, kReaches>, 2> usual{};
        std::array<Share, kReaches> share{};
        double threshold = 0;
        std::vector<double> score;
        std::vector<std::pair<std::size_t, double>> effects;  // of its companions, lags together
    };
    Share shareThatRemains(std::size_t tag, std::size_t reach) const;
    double scoreOf(std::size_t tag, std::size_t block) const;
    void calculate(Tag& tag, Of of, std::size_t from, std::size_t to) const;

    const BlockGrid& grid_;
    std::vector<Companions> companions_;
    std::vector<Tag> tags_;
    std::array<std::size_t, kReaches> blocks_{};
};

/// Blocks at which a score is the greatest within `apart` on either side; scores of 0 are none.
std::vector<std::size_t> peaksOf(const std::vector<double>& score, std::size_t apart);

}  // namespace jacinth
