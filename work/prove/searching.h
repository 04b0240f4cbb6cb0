// A search over the settings of a rule, on the failures of a study.
#pragma once

#include <cmath>
#include <functional>

#include "core/prove/search.h"
#include "work/prove/proving.h"

namespace jacinth {

struct SearchRequest {
    ProveRequest prove;  ///< its settings are those that are not varied
    std::vector<Vary> vary;
    Aim aim;
    std::vector<LeaveOut> leaveOut{LeaveOut::Failure};
    int shuffles = 200;
    unsigned seed = 1;
};

struct Searched {
    std::vector<Settings> settings;  ///< every one that was tried, with those that were not varied
    SearchResult result;
    std::size_t onAssets = 0, ofAssets = 0;  ///< judged on the first so many of all
    std::vector<LeftOut> leftOut;            ///< as asked for
    Shuffled shuffled;
    /// Settings of the best that lie at an end of their range, where it is not known what comes beyond:
    /// `limit = 8`.
    std::vector<std::string> atEnds;
    std::string verdict;  ///< a plain sentence; empty where nothing was shuffled
    /// Does any setting do? Without a failure to judge by none does.
    bool isAllowed() const {
        const Tally& best = result.tallies[result.best];
        return std::isfinite(result.scores[result.best]) && best.caught + best.missed > 0;
    }
};
/// Why no setting does, where none does: there are no failures, none could be tested, or the bounds are too
/// narrow.
std::string whyNoneAllowed(const Tally& best);
/// What is to be thought of it, in a plain sentence or two. `best`: of the setting that was found.
std::string verdictSentence(const Shuffled& tries, const LeftOut& leftOut, const Tally& best);

/// The place of the setting whose varied numbers are nearest to these, each measured by its range; none where
/// one of them is not there.
std::optional<std::size_t> nearestSetting(const std::vector<Vary>& vary,
                                          const std::vector<Settings>& settings, const Settings& to);

/// Where the rule is true for every setting: what the settings share is computed once, and each
/// setting gives exactly what a proof of it alone gives. Fails where the rule has an error with one of the
/// settings, where a setting has neither number nor range, and where it is stopped.
Result<SearchCase> searchCase(Study& study, const SearchRequest& request, const Progress& progress = {});
/// `soFar` gets what is known after each asset: every setting judged on those that are done, before anything
/// is left out or moved.
Result<Searched> searchRule(Study& study, const SearchRequest& request, const Progress& progress = {},
                            const std::function<void(const Searched&)>& soFar = {});

}  // namespace jacinth
