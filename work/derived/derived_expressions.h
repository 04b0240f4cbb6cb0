// Derived tags that are given by an expression: recalculated by themselves when what they are made of
// changes.
#pragma once

#include "store/study.h"

namespace jacinth {

/// What makes a derived tag. Without an asset: one on every asset that can use the expression.
struct DerivedSpec {
    std::string name, unit;  ///< without a unit, that of the expression where it is known
    std::string text;        ///< a condition becomes a state tag, false or true
    std::string asset;
};

/// Makes tags of this name, or gives those of that name a new expression, as one undoable step. Their samples
/// come with refreshDerived(). Refused, with the reason: a name that a logged or kept tag has, an expression
/// that names no tag and no track, one that gives a text, and one that would be made from itself (the message
/// shows the cycle). Returns the tags' ids.
Result<std::vector<TagId>> defineDerived(Study& study, const DerivedSpec& spec);
/// Several as one step of this name; all or none.
Result<std::vector<TagId>> defineDerived(Study& study, const std::vector<DerivedSpec>& specs,
                                         const std::string& stepName);

/// The golden limits of a role by this set as tags, on every asset: `<tag> low` and `<tag> high`. One step.
/// They follow the newest versions of the set, as screening does.
Result<std::vector<TagId>> keepLimitTags(Study& study, const std::string& set, const std::string& role);

/// Removes a derived tag, with its fixes, as one undoable step. Refused while another derived tag is made
/// from it, or while labels or readings are about it.
Status removeDerived(Study& study, TagId tag);

/// A derived tag by expression, and how its samples stand.
struct DerivedExpression {
    Tag tag;
    std::string text;
    std::vector<TagId> madeFrom;  ///< tags it uses, as far as the text can be read
    Instant at{};                 ///< when its samples were calculated; 0: not yet
    std::string trouble;          ///< why it has no samples; empty for none
    bool stale = false;           ///< its samples are not those of what it is made of now
};
/// In an order in which each comes after those it is made from.
std::vector<DerivedExpression> derivedExpressions(const Study& study);

/// The text of a tag that is given by an expression; empty for any other.
std::string derivedText(const Study& study, TagId tag);

}  // namespace jacinth
