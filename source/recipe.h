// What is said about a kind of file once and used again: a saved recipe. And the files of a folder.
#pragma once

#include "source/text_layout.h"
#include "store/study.h"

namespace jacinth {

/// A recipe as it lies in the study (JSON), and back; what a text does not say stays to be guessed.
std::string recipeToJson(const LayoutHints& hints);
LayoutHints recipeFromJson(const std::string& json);

/// Saved recipes by name, in order of name.
std::vector<std::pair<std::string, LayoutHints>> recipes(Study& study);
/// Saves or replaces one, as an undoable step.
void saveRecipe(Study& study, const std::string& name, const LayoutHints& hints);
Result<LayoutHints> recipeNamed(Study& study, const std::string& name);

/// The file itself, or the text files of a folder and the folders in it, by path: *.csv, *.txt, *.tsv, and
/// those with .gz behind. Fails where there is no such file, or a folder holds none.
Result<std::vector<std::string>> filesAt(const std::string& path);

/// The first row of a text file, packed or not; empty where it cannot be read.
std::string headerOf(const std::string& path);

}  // namespace jacinth
