// What derived tags are made of, tag by tag: the order to work them out in, and whether one comes round to
// itself.
#pragma once

#include "work/derived_inputs.h"

namespace jacinth {

/// `changed` stands for the texts of tags that are about to change.
class DerivedWeb {
  public:
    DerivedWeb(const Study& study, StudyMarks& marks, std::map<std::int64_t, std::string> changed = {})
        : study_(study), marks_(marks), changed_(std::move(changed)) {}

    std::string textOf(std::int64_t tag) const;
    const std::vector<std::int64_t>& inputsOf(std::int64_t tag);
    /// The way from a tag back to itself, in words: `A` → `B` → `A`; empty where there is none.
    std::string wayRound(std::int64_t tag);
    /// In an order in which each comes after those it is made from; tags that are made from themselves
    /// anywhere.
    std::vector<std::int64_t> inOrder(const std::vector<std::int64_t>& all);

  private:
    bool follow(std::int64_t from, std::int64_t wanted, std::set<std::int64_t>& seen,
                std::vector<std::int64_t>& way);
    void visit(std::int64_t tag, std::set<std::int64_t>& seen, std::vector<std::int64_t>& out);

    const Study& study_;
    StudyMarks& marks_;
    std::map<std::int64_t, std::string> changed_;
    std::map<std::int64_t, std::vector<std::int64_t>> inputs_;
};

}  // namespace jacinth
