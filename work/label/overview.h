// How far the record is labelled: assets by week or by run, by whom, and what is next worth labelling.
#pragma once

#include <map>
#include <set>

#include "core/base/progress.h"
#include "core/label/worth_labelling.h"
#include "store/study.h"
#include "work/base/asset_groups.h"

namespace jacinth {

struct LabelledStretch {
    TimeRange range;
    Duration covered{};  ///< by labels, together
    int marks = 0;       ///< that touch it
    int unnamed = 0, unsure = 0;
    std::set<std::string> people;
    std::set<std::string> kinds;
    std::string name;  ///< of a run: its number
};

/// How many marks, and how long together.
struct MarkCount {
    int marks = 0;
    Duration length{};
};
using MarkCounts = std::map<std::string, MarkCount>;

struct LabelOverview {
    struct Row {
        AssetId asset;
        std::vector<LabelledStretch> stretches;  ///< by time
    };
    std::vector<Row> rows;  ///< assets with tags, group by group, in the order of their names
    MarkCounts byKind, byWho;
    std::map<std::string, MarkCounts> byFact;  ///< for each fact that the site gave marks, by its value
    std::vector<std::pair<std::string, MarkCount>>
        byGroup;  ///< of assets, by the grouping's fact, in its order
};

/// By week: from midnight of the plant's Mondays; the first and the last are as long as the record reaches.
/// With a grouping that looks at one group alone, of its assets and the marks on them.
LabelOverview overviewByWeek(const Study& study, const Grouping& grouping = {});
/// Fails where the study has no runs.
Result<LabelOverview> overviewByRun(const Study& study, const Grouping& grouping = {});

/// A day of an asset that is worth labelling, with the day it was compared with.
struct DayWorthLabelling {
    AssetId asset;
    TimeRange day;
    double distance = 0;
    bool likeUnsure = false;
    AssetId otherAsset;
    TimeRange otherDay;
    bool hasOther = false;  ///< none is labelled yet
};
/// Days by the plant's midnights; their figures are the mean, the least and the greatest of each tag of
/// numbers that has a role (core/label/worth_labelling.h). A day on which a label begins or goes on is
/// labelled.
Result<std::vector<DayWorthLabelling>> daysWorthLabelling(Study& study, std::size_t most, Which which,
                                                          const Progress& progress = {});

}  // namespace jacinth
