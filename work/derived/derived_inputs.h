// What an expression reads from a study: which tags and tracks, over which time, in which state.
#pragma once

#include <nlohmann/json.hpp>

#include "core/base/mark.h"
#include "work/base/expression_reach.h"

namespace jacinth {

/// Names of the tracks it names.
std::vector<std::string> tracksOf(const Study& study, const Expression& expression);

/// Marks of what derived tags read, each calculated once: for one look at all derived tags of a study.
class StudyMarks {
  public:
    explicit StudyMarks(const Study& study) : study_(study) {}
    /// What a text about this asset may name.
    const Names& names(AssetId asset);
    /// What the samples of a derived tag are made from, as JSON: the text, and of everything it reads a mark
    /// that changes when that does. Of derived tags among them the mark is of their own such texts.
    std::string madeFrom(const Tag& tag, const std::string& text);
    /// The same of a text about an asset that does not define a tag.
    std::string ofText(AssetId asset, const std::string& text) { return ofInputs(asset, {}, text).dump(); }
    /// Of a tag's samples: changes when they do, or with `which` mended when its fixes do.
    std::string ofSamples(const Tag& tag, Which which);

  private:
    nlohmann::json ofInputs(AssetId asset, nlohmann::json begin, const std::string& text);
    const std::string& ofTag(const Tag& tag);
    const std::string& madeOf(const Tag& tag);
    std::string ofReading(const Tag& tag) const;
    void addTrust(Mark& mark, TagId tag) const;
    void addTwin(Mark& mark, TagId twin);
    const std::string& ofTags(AssetId asset);
    const std::string& ofRuns(const std::string& limits);
    const Study& study_;
    std::map<AssetId, Names> names_;
    std::map<TagId, std::string> made_, tags_;
    std::map<AssetId, std::string> assets_;
    std::map<std::string, std::string> runs_;
    std::set<TagId> within_;  ///< whose inputs are being looked at
};

}  // namespace jacinth
