// Assets and tags of a study: what there is, and how to read it.
#pragma once

#include <map>
#include <optional>
#include <unordered_map>

#include "core/base/role_name.h"
#include "core/expr/check.h"
#include "core/series/series.h"
#include "core/span/span.h"

namespace jacinth {

class Database;
class Statement;

struct Asset {
    AssetId id;
    std::string name;
    std::string kind;  ///< the name without its number: Kiln 3 is a Kiln
    Facts facts;
};

struct Tag {
    TagId id;
    AssetId asset;
    std::string assetName;
    std::string name;
    std::string role;
    std::string unit;
    TagKind kind = TagKind::Continuous;
    std::optional<Duration> longestGap;  ///< as set by the engineer; else ten median spacings, or without end
    Duration spacing{};                  ///< median, over blocks
    std::vector<std::string> states;     ///< by code
    Facts facts;

    std::string path() const { return assetName + "/" + name; }
    Bridging bridging() const { return {kind, longestGap ? *longestGap : defaultLongestGap(kind, spacing)}; }
    TagInfo info() const {
        return {kind, unit, states, kind == TagKind::Continuous ? bridging().longestGap : Duration{}};
    }
    /// The part of the plant it belongs to: the fact `system`, or the role's first word (`air_off_temp`:
    /// air).
    std::string system() const;
};

/// Fails on what cannot be the name of an asset, a tag, a track, a rule …: blank, with control characters,
/// not UTF-8, longer than 400 bytes. `what` is for the message: `an asset`.
Status checkName(const std::string& name, const char* what);

const char* tagKindName(TagKind kind);  ///< continuous, stepped, state
Result<TagKind> tagKindNamed(const std::string& name);
/// `Kiln 3` → `Kiln`.
std::string assetKindFromName(const std::string& name);
std::string factsToJson(const Facts& facts);
Facts factsFromJson(const std::string& text);

/// Kept in memory and read again when the study changes. Order is that of creation.
class Catalog {
  public:
    explicit Catalog(Database& db) : db_(db) {}
    void reload();

    const std::vector<Asset>& assets() const { return assets_; }
    const std::vector<Tag>& tags() const { return tags_; }
    const Asset* asset(AssetId id) const;
    const Asset* assetNamed(const std::string& name) const;
    const Tag* tag(TagId id) const;
    const Tag* find(const std::string& path) const;            ///< `Asset/Tag`
    Result<Tag> tagAt(const std::string& path) const;          ///< the same; the error names the nearest
    Result<Asset> assetCalled(const std::string& name) const;  ///< the error names the nearest
    /// Also by the spelling of earlier versions (see roleFromName).
    const Tag* tagInRole(AssetId asset, const std::string& role) const;
    const Tag* tagNamed(AssetId asset, const std::string& roleOrPath) const;  ///< a path: of any asset
    std::vector<std::string> roles() const;  ///< every role once, in order of creation
    /// The names an expression about this asset may use.
    Names namesFor(AssetId asset) const;

    AssetId addAsset(const std::string& name);  ///< the existing one where there is one
    TagId addTag(AssetId asset, const std::string& name, const std::string& unit, TagKind kind);
    void setAssetFacts(AssetId asset, const Facts& facts);
    void updateTag(const Tag& tag);                    ///< role, unit, kind, longest gap, facts
    int addState(TagId tag, const std::string& name);  ///< its code
    void setStates(TagId tag, const std::vector<std::string>& names);  ///< in place of those it had
    void setSpacing(TagId tag, Duration spacing);

    /// What the file said of assets and tags that cannot be, and was read otherwise. One line each.
    const std::vector<std::string>& faults() const { return faults_; }
    static constexpr int kMostStates = 1'000'000;  ///< of one tag

  private:
    std::string freeRole(AssetId asset, const std::string& wanted) const;
    void keep(Asset asset);
    void keep(Tag tag);
    void placeState(std::vector<std::string>& states, std::int64_t code, const std::string& name);
    TagKind kindFrom(const Statement& tags);
    Tag* editable(TagId id);

    Database& db_;
    std::vector<Asset> assets_;
    std::vector<Tag> tags_;
    std::unordered_map<AssetId, std::size_t> assetPlaces_;
    std::unordered_map<TagId, std::size_t> tagPlaces_;
    std::unordered_map<std::string, std::size_t> tagPaths_;
    std::unordered_map<AssetId, std::unordered_map<std::string, std::size_t>> tagRoles_;
    std::unordered_map<TagId, std::unordered_map<std::string, int>> statePlaces_;
    /// What all assets' expressions may name; made when it is asked for, gone with the next change.
    struct PlantNames {
        SharedMap<TagInfo> paths;
        SharedMap<std::string> rolesOfOne;
    };
    const PlantNames& plantNames() const;
    mutable std::optional<PlantNames> plantNames_;
    std::vector<std::string> faults_;
};

}  // namespace jacinth
