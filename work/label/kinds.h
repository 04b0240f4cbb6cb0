// The label book of a study: kinds added, changed, merged and removed, with their marks; each as one undoable
// step. The book as a file, and the one that a site keeps for its next studies.
#pragma once

#include <filesystem>

#include "core/label/label_book.h"
#include "store/study.h"

namespace jacinth {

/// Fails on what checkBook refuses.
Status addLabelKind(Study& study, const LabelKind& kind);
/// Marks of it, and kinds below it, follow a new name.
Status changeLabelKind(Study& study, const std::string& name, const LabelKind& to);
/// Its marks, and kinds below it, become `into`'s.
Status mergeLabelKinds(Study& study, const std::string& from, const std::string& into);

/// What becomes of the marks of a kind that is removed.
enum class MarksOfKind { Unnamed, Removed };
/// Kinds below it go to its parent.
Status removeLabelKind(Study& study, const std::string& name, MarksOfKind marks);
/// How many marks are of this very kind.
std::size_t marksOfKind(const Study& study, const std::string& name);

/// The book as JSON: an array of kinds with name, meaning, colour, key, normal, parent.
std::string bookText(const LabelBook& book);
/// Fails, saying which kind is wrong, where a text cannot be a book.
Result<LabelBook> readBook(std::string_view text);
/// Takes over a book: what has a name that is known is changed, what is new is added, and kinds that are not
/// in it stay while they have marks.
Status takeBook(Study& study, const LabelBook& book);

/// Where the site keeps the book for its next studies: below $XDG_CONFIG_HOME, else ~/.config.
std::filesystem::path siteBookPath();
Status keepAsSiteBook(const LabelBook& book);
/// Gives a new study the site's book, where there is one; not a step that is undone. Fails where the file
/// cannot be read.
Status beginWithSiteBook(Study& study);

}  // namespace jacinth
