// How the names of a source become assets, tags, roles and groups: by a pattern like
// `{area}/{line}/{asset}/{tag}`, by a table, or at the first slash.
#pragma once

#include <map>
#include <memory>
#include <optional>
#include <string>
#include <string_view>
#include <unordered_map>
#include <vector>

#include "core/base/result.h"

namespace jacinth {

/// What a name becomes. Without an asset it names none.
struct MappedName {
    std::string asset, tag, unit;
    std::string role;                               ///< empty: made from the tag's name
    std::map<std::string, std::string> assetFacts;  ///< groups: area, line, type …
    std::map<std::string, std::string> tagFacts;
    bool operator==(const MappedName&) const = default;
};

/// What the user says about names, as it is kept with a study.
struct NameSettings {
    /// Fields in braces and what stands between them. `{asset}`, `{tag}`, `{role}` and `{unit}` have their
    /// meaning; any other is a fact: of the asset, or where it stands after `{tag}` of the tag, whose name
    /// then goes to the end of that field. A field takes as little as it can; the last one takes the rest.
    /// Empty: the asset ends at the first slash.
    std::string pattern;
    /// What an asset is called, from the fields of the pattern; `{asset}` where empty. `{line} {asset}` keeps
    /// the pumps 1 of two lines from being one asset.
    std::string assetName;
    /// Rows of a table: name, and what it becomes. A name in it follows its row whatever the pattern says.
    std::vector<std::pair<std::string, MappedName>> table;
    bool onlyTable = false;  ///< names that are not in the table are rejected
    bool isEmpty() const { return pattern.empty() && table.empty(); }
};

/// Compiled settings; may be used from any thread.
class NameMapping {
  public:
    /// Fails on a pattern without `{tag}`, with a field twice, an open brace, or two fields without anything
    /// between them; and on a name of assets with a field that the pattern does not have.
    static Result<std::shared_ptr<const NameMapping>> from(const NameSettings& settings);

    /// `otherwise` is the asset of names that name none. An error says why the name is rejected.
    Result<MappedName> map(std::string_view name, const std::string& otherwise) const;

  private:
    struct Piece {
        std::string field;    ///< empty for the text before the first field
        std::string literal;  ///< that follows it
    };
    static Result<std::vector<Piece>> piecesOf(const std::string& text);
    bool take(std::string_view name, std::vector<std::string>& values) const;
    MappedName fromValues(std::string_view name, const std::vector<std::string>& values) const;

    std::vector<Piece> pieces_, assetName_;
    std::string pattern_;
    std::unordered_map<std::string, MappedName> table_;
    bool onlyTable_ = false;
};

/// The last `[…]` of a name is its unit.
std::pair<std::string, std::string> nameAndUnit(std::string_view name);
/// `Asset/Tag`, cut at the first slash; without one the asset is `otherwise`.
MappedName cutAtFirstSlash(std::string_view name, const std::string& otherwise);

/// A pattern that fits all of these names, where they are of one form with more than one slash, or like
/// `FIC-101.PV`; empty where the usual cut does.
std::string proposedPattern(const std::vector<std::string>& names);

/// Names that become one asset although their groups differ, or one tag: one line each, at most `most`.
std::vector<std::string> clashesOf(const std::vector<std::pair<std::string, MappedName>>& mapped,
                                   std::size_t most = 20);

/// The table from a text file: columns name, asset, tag, role, unit, and any other as a fact of the asset
/// (`tag:NAME`: of the tag). Fails on a table without `name` and `tag`, a row without them, or a name twice.
Result<std::vector<std::pair<std::string, MappedName>>> readNameTable(std::string_view text);

/// As JSON, as it is kept in the study; settings that cannot be read are empty.
std::string nameSettingsText(const NameSettings& settings);
NameSettings nameSettingsFrom(const std::string& text);

/// Setting of a study: the names of the last import.
inline constexpr const char* kNamesSetting = "names of sources";

}  // namespace jacinth
