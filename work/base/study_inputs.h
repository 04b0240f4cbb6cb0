// Gives expressions the tags of a study, for one asset at a time.
#pragma once

#include <map>

#include "core/expr/evaluate.h"
#include "store/study.h"

namespace jacinth {

/// Reads a tag once, over `range` and the look-back before it, and keeps it.
class StudyInputs : public Inputs {
  public:
    StudyInputs(Study& study, AssetId asset, TimeRange range, Duration lookBack, Which which);
    Result<Signal> role(const std::string& name) override;
    Result<Signal> path(const std::string& name) override;
    Result<std::vector<TimeRange>> track(const std::string& name) override;
    Result<LimitLines> limits(const std::string& set, const std::string& tag, bool isPath) override;
    Result<Signal> trust(const std::string& tag, bool isPath) override;

    /// Where every tag read so far has a value, within the range.
    std::vector<TimeRange> covered() const;

  private:
    Result<Signal> read(const Tag& tag);
    Study& study_;
    AssetId asset_;
    TimeRange range_;
    Duration lookBack_;
    Which which_;
    std::map<TagId, Signal> read_;
};

/// Where a signal has a value, within a range.
std::vector<TimeRange> coverageOf(const Signal& signal, TimeRange range);

/// What trust() may give: the site's grades, best first, and “not judged”.
std::vector<std::string> trustGradesOf(const Study& study);

/// Everything an expression about this asset may name: its roles, all paths, derived tags, tracks, limits.
Names namesIn(const Study& study, AssetId asset);

/// Ids of the tags that an expression names on this asset, each once.
std::vector<TagId> tagsOf(const Study& study, const Expression& expression, AssetId asset);

/// An expression checked for every asset that can use it: all that have its roles, or, where it names only
/// paths, the owners of those tags (see FleetNames).
struct FleetExpression {
    std::vector<std::pair<Asset, Expression>> byAsset;
    std::vector<std::pair<Asset, std::string>> without;  ///< assets that cannot use it, and why

    /// Warnings of every asset, each once, with the assets that it is about where these are not all.
    std::vector<std::string> warnings() const;
};

/// What the assets of a study may name, read once for many texts.
class FleetNames {
  public:
    /// With `onlyAsset` empty, of every asset. `asked`: the assets that a text is asked about; one that names
    /// only paths, of tags that none of them owns, is about all of them, as the weather is about all kilns.
    explicit FleetNames(const Study& study, std::string onlyAsset = {}, std::vector<AssetId> asked = {});
    /// The error is that of the asset which has most of the tags.
    Result<FleetExpression> compile(const std::string& text) const;

  private:
    bool isAsked(const Asset& asset) const;
    const Study& study_;
    std::string onlyAsset_;
    std::vector<AssetId> asked_;
    std::vector<std::pair<Asset, Names>> names_;
};

/// One text.
inline Result<FleetExpression> compileForFleet(const Study& study, const std::string& text,
                                               const std::string& onlyAsset = {},
                                               std::vector<AssetId> asked = {}) {
    return FleetNames(study, onlyAsset, std::move(asked)).compile(text);
}

}  // namespace jacinth
