// Marks of everything that the values of tags over certain stretches come from: when one differs, what was
// calculated from them is out of date. A day that is imported after the stretches changes none.
#pragma once

#include <set>
#include <string>
#include <vector>

#include "core/base/mark.h"
#include "store/study.h"

namespace jacinth {

/// Collects tags and stretches, in any number; then one mark of each sort. Time grows with the fixes, imports
/// and stretches of the tags, not with the samples.
class ReadingMarks {
  public:
    explicit ReadingMarks(const Study& study);
    /// What a tag reads within these stretches, ends included; as logged fixes do not count. A derived tag by
    /// expression stands for the tags it is made from.
    void add(const Tag& tag, const std::vector<TimeRange>& stretches, Which which);

    /// Imports that brought samples into the stretches, and removals that took some from them; of derived
    /// tags their text.
    std::string ofSamples() const { return samples_.text(); }
    /// Fixes that act in the stretches, also those that move samples into them, and the twins they borrow
    /// from.
    std::string ofFixes() const { return fixes_.text(); }
    /// How tags are read: their kind and longest gap, only sound data or all, and then what is not trusted.
    std::string ofSettings() const { return settings_.text(); }

  private:
    void addSettings(const Tag& tag, const std::vector<TimeRange>& stretches);
    void addFixes(const Tag& tag, std::vector<TimeRange>& stretches);
    void addInputs(const Tag& tag, const std::string& text, const std::vector<TimeRange>& stretches);

    const Study& study_;
    bool soundOnly_;
    Mark samples_, fixes_, settings_;
    std::set<TagId> within_;  ///< derived tags that are being added: one made from itself ends there
};

}  // namespace jacinth
