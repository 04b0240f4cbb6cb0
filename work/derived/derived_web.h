// What derived tags are made of, tag by tag: the order to work them out in, and whether one comes round to
// itself.
#pragma once

#include "work/derived/derived_inputs.h"

namespace jacinth {

/// `changed` stands for the texts of tags that are about to change.
class DerivedWeb {
  public:
    DerivedWeb(const Study& study, StudyMarks& marks, std::map<TagId, std::string> changed = {})
        : study_(study), marks_(marks), changed_(std::move(changed)) {}

    std::string textOf(TagId tag) const;
    /// The tags that its values come from: those that its text names, and the twins that fixes on it borrow
    /// from.
    const std::vector<TagId>& inputsOf(TagId tag);
    /// How one tag is made from another, in words: `A` → `B` → `C`; empty where it is not.
    std::string wayFrom(TagId tag, TagId to);
    /// The way from a tag back to itself, in words: `A` → `B` → `A`; empty where there is none.
    std::string wayRound(TagId tag);
    /// In an order in which each comes after those it is made from; tags that are made from themselves
    /// anywhere.
    std::vector<TagId> inOrder(const std::vector<TagId>& all);

  private:
    bool follow(TagId from, TagId wanted, std::set<TagId>& seen, std::vector<TagId>& way);
    void visit(TagId tag, std::set<TagId>& seen, std::vector<TagId>& out);

    const Study& study_;
    StudyMarks& marks_;
    std::map<TagId, std::string> changed_;
    std::map<TagId, std::vector<TagId>> inputs_;
};

}  // namespace jacinth
