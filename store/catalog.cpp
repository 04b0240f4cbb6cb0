#include "store/catalog.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cctype>
#include <nlohmann/json.hpp>
#include <set>

#include "core/base/parse_json.h"
#include "core/base/text.h"
#include "core/base/utf8.h"
#include "store/database.h"

namespace jacinth {
namespace {
constexpr std::array<const char*, 3> kKinds{"continuous", "stepped", "state"};
}

std::string Tag::system() const {
    const std::string said = factText(facts, "system");
    return said.empty() ? role.substr(0, role.find('_')) : said;
}

const char* tagKindName(TagKind kind) {
    const auto i = static_cast<std::size_t>(kind);
    return i < kKinds.size() ? kKinds[i] : "unknown";
}

Result<TagKind> tagKindNamed(const std::string& name) {
    for (std::size_t i = 0; i < kKinds.size(); ++i)
        if (name == kKinds[i]) return static_cast<TagKind>(i);
    return Error{fmt::format("`{}` is not a kind of tag; continuous, stepped and state are", name)};
}

std::string assetKindFromName(const std::string& name) {
    std::size_t end = name.size();
    while (end > 0 && (std::isdigit(static_cast<unsigned char>(name[end - 1])) || name[end - 1] == ' '))
        --end;
    return end == 0 ? name : name.substr(0, end);
}

std::string factsToJson(const Facts& facts) {
    nlohmann::json json = nlohmann::json::object();
    for (const auto& [name, fact] : facts)
        std::visit([&json, &key = name](const auto& v) { json[key] = v; }, fact);
    return json.dump(-1, ' ', false, nlohmann::json::error_handler_t::replace);
}

Facts factsFromJson(const std::string& text) {
    Facts out;
    const auto json = parseJson(text);
    if (!json.is_object()) return out;
    for (const auto& [name, value] : json.items()) {
        if (value.is_number()) out[name] = value.get<double>();
        if (value.is_string()) out[name] = value.get<std::string>();
    }
    return out;
}

void Catalog::reload() {
    assets_.clear();
    tags_.clear();
    assetPlaces_.clear();
    tagPlaces_.clear();
    tagPaths_.clear();
    tagRoles_.clear();
    plantNames_.reset();
    statePlaces_.clear();
    faults_.clear();
    Statement assets(db_, "SELECT id, name, kind, facts FROM asset ORDER BY name");
    while (assets.more())
        keep(Asset{assets.id<AssetId>(0), assets.text(1), assets.text(2), factsFromJson(assets.text(3))});
    std::unordered_map<TagId, std::vector<std::string>> states;
    Statement state(db_, "SELECT tag, code, name FROM state ORDER BY tag, code");
    while (state.more()) placeState(states[state.id<TagId>(0)], state.integer(1), state.text(2));
    Statement tags(db_,
                   "SELECT tag.id, asset, asset.name, tag.name, role, unit, tag.kind, longest_gap, spacing, "
                   "tag.facts FROM tag "
                   "JOIN asset ON asset.id = asset ORDER BY asset.name, tag.id");
    while (tags.more()) {
        Tag t{tags.id<TagId>(0), tags.id<AssetId>(1),
              tags.text(2),      tags.text(3),
              tags.text(4),      tags.text(5),
              kindFrom(tags),    {},
              tags.duration(8),  std::move(states[tags.id<TagId>(0)])};
        if (!tags.isNull(7)) t.longestGap = tags.duration(7);
        if (t.spacing < Duration::zero() || (t.longestGap && *t.longestGap <= Duration::zero())) {
            faults_.push_back(
                fmt::format("{}: its spacing or longest gap is not a length of time", t.path()));
            t.spacing = std::max(t.spacing, Duration::zero());
            if (t.longestGap && *t.longestGap <= Duration::zero()) t.longestGap.reset();
        }
        t.facts = factsFromJson(tags.text(9));
        keep(std::move(t));
    }
}

/// Codes are places in the list of states. One that is missing in the file leaves its place to a name that
/// says so: the others keep their names.
void Catalog::placeState(std::vector<std::string>& states, std::int64_t code, const std::string& name) {
    if (code < 0 || code > kMostStates) {
        faults_.push_back(fmt::format("the state `{}` has the impossible code {}", name, code));
        return;
    }
    while (static_cast<std::int64_t>(states.size()) < code)
        states.push_back(fmt::format("(state {} is lost)", states.size()));
    if (static_cast<std::int64_t>(states.size()) == code) states.push_back(name);
}

TagKind Catalog::kindFrom(const Statement& tags) {
    const std::int64_t kind = tags.integer(6);
    if (kind >= 0 && kind < static_cast<std::int64_t>(kKinds.size())) return static_cast<TagKind>(kind);
    faults_.push_back(fmt::format("{}/{}: its kind ({}) is unknown; it is read as continuous", tags.text(2),
                                  tags.text(3), kind));
    return TagKind::Continuous;
}

void Catalog::keep(Asset asset) {
    assetPlaces_[asset.id] = assets_.size();
    assets_.push_back(std::move(asset));
}

void Catalog::keep(Tag tag) {
    tagPlaces_[tag.id] = tags_.size();
    tagPaths_.try_emplace(tag.path(), tags_.size());
    tagRoles_[tag.asset].try_emplace(tag.role, tags_.size());
    plantNames_.reset();
    tags_.push_back(std::move(tag));
}

const Asset* Catalog::asset(AssetId id) const {
    const auto at = assetPlaces_.find(id);
    return at == assetPlaces_.end() ? nullptr : &assets_[at->second];
}

const Asset* Catalog::assetNamed(const std::string& name) const {
    for (const Asset& a : assets_)
        if (a.name == name) return &a;
    return nullptr;
}

const Tag* Catalog::tag(TagId id) const {
    const auto at = tagPlaces_.find(id);
    return at == tagPlaces_.end() ? nullptr : &tags_[at->second];
}

Tag* Catalog::editable(TagId id) {
    plantNames_.reset();
    return const_cast<Tag*>(tag(id));
}

const Tag* Catalog::find(const std::string& path) const {
    const auto at = tagPaths_.find(path);
    return at == tagPaths_.end() ? nullptr : &tags_[at->second];
}

Result<Tag> Catalog::tagAt(const std::string& path) const {
    if (const Tag* t = find(path)) return *t;
    std::vector<std::string> known;
    for (const Tag& t : tags_) known.push_back(t.path());
    return Error{fmt::format("there is no tag `{}`{}", path, sayNearest(path, known))};
}

Result<Asset> Catalog::assetCalled(const std::string& name) const {
    if (const Asset* a = assetNamed(name)) return *a;
    std::vector<std::string> known;
    for (const Asset& a : assets_) known.push_back(a.name);
    return Error{fmt::format("there is no asset `{}`{}", name, sayNearest(name, known))};
}

const Tag* Catalog::tagInRole(AssetId asset, const std::string& role) const {
    const auto roles = tagRoles_.find(asset);
    if (roles == tagRoles_.end()) return nullptr;
    auto at = roles->second.find(role);
    if (at == roles->second.end() && !role.empty()) at = roles->second.find(roleFromName(role));
    return at == roles->second.end() ? nullptr : &tags_[at->second];
}

const Tag* Catalog::tagNamed(AssetId asset, const std::string& roleOrPath) const {
    const Tag* role = tagInRole(asset, roleOrPath);
    return role ? role : find(roleOrPath);
}

std::vector<std::string> Catalog::roles() const {
    std::vector<std::string> out;
    for (const Tag& t : tags_)
        if (std::find(out.begin(), out.end(), t.role) == out.end()) out.push_back(t.role);
    return out;
}

const Catalog::PlantNames& Catalog::plantNames() const {
    if (plantNames_) return *plantNames_;
    std::map<std::string, TagInfo> paths;
    std::map<std::string, std::string> ofOne;
    std::set<std::string> several;
    for (const Tag& t : tags_) {
        paths[t.path()] = t.info();
        if (!ofOne.emplace(t.role, t.path()).second) several.insert(t.role);
    }
    for (const std::string& role : several) ofOne.erase(role);
    plantNames_ = PlantNames{SharedMap<TagInfo>(std::move(paths)), SharedMap<std::string>(std::move(ofOne))};
    return *plantNames_;
}

Names Catalog::namesFor(AssetId assetId) const {
    Names names;
    if (const Asset* a = asset(assetId)) names.assetKind = a->kind;
    names.paths = plantNames().paths;
    names.rolesElsewhere = plantNames().rolesOfOne;
    if (const auto roles = tagRoles_.find(assetId); roles != tagRoles_.end())
        for (const auto& [role, place] : roles->second) names.roles[role] = tags_[place].info();
    return names;
}

Status checkName(const std::string& name, const char* what) {
    if (trimmed(name).empty()) return Error{fmt::format("a name of {} cannot be empty or blank", what)};
    if (!isUtf8(name)) return Error{fmt::format("the name of {} is not valid UTF-8", what)};
    for (const char c : name)
        if (static_cast<unsigned char>(c) < 0x20 || c == 0x7F)
            return Error{
                fmt::format("a name of {} cannot hold a line break or another control character", what)};
    if (name.size() > 400) return Error{fmt::format("a name of {} cannot be longer than 400 bytes", what)};
    return Done{};
}

AssetId Catalog::addAsset(const std::string& name) {
    if (const Asset* known = assetNamed(name)) return known->id;
    if (const Status good = checkName(name, "an asset"); !good) throw StoreError(good.error().message);
    Statement(db_, "INSERT INTO asset(name, kind) VALUES(?, ?)").bind(name, assetKindFromName(name)).run();
    const AssetId id(db_.lastId());
    keep(Asset{id, name, assetKindFromName(name), {}});
    return id;
}

/// An asset has a role once: `temp`, `temp_2` …
std::string Catalog::freeRole(AssetId asset, const std::string& wanted) const {
    std::string role = wanted;
    for (int n = 2; tagInRole(asset, role); ++n) role = fmt::format("{}_{}", wanted, n);
    return role;
}

TagId Catalog::addTag(AssetId assetId, const std::string& name, const std::string& unit, TagKind kind) {
    const Asset* owner = asset(assetId);
    if (!owner) throw StoreError("there is no such asset");
    if (const Status good = checkName(name, "a tag"); !good) throw StoreError(good.error().message);
    Tag t;
    t.asset = assetId;
    t.assetName = owner->name;
    t.name = name;
    t.role = freeRole(assetId, roleFromName(name));
    t.unit = unit;
    t.kind = kind;
    Statement(db_, "INSERT INTO tag(asset, name, role, unit, kind) VALUES(?, ?, ?, ?, ?)")
        .bind(assetId, name, t.role, unit, static_cast<int>(kind))
        .run();
    t.id = TagId(db_.lastId());
    const TagId id = t.id;
    keep(std::move(t));
    return id;
}

void Catalog::setAssetFacts(AssetId asset, const Facts& facts) {
    Statement(db_, "UPDATE asset SET facts = ? WHERE id = ?").bind(factsToJson(facts), asset).run();
    if (const auto at = assetPlaces_.find(asset); at != assetPlaces_.end()) assets_[at->second].facts = facts;
}

void Catalog::updateTag(const Tag& t) {
    Statement(db_, "UPDATE tag SET role = ?, unit = ?, kind = ?, longest_gap = ?, facts = ? WHERE id = ?")
        .bind(t.role, t.unit, static_cast<int>(t.kind), t.longestGap, factsToJson(t.facts), t.id)
        .run();
    Tag* known = editable(t.id);
    if (!known) return;
    const std::size_t place = tagPlaces_.at(t.id);
    if (known->role != t.role) {
        auto& roles = tagRoles_[known->asset];
        if (const auto was = roles.find(known->role); was != roles.end() && was->second == place)
            roles.erase(was);
        roles.try_emplace(t.role, place);
    }
    *known = t;
}

void Catalog::setStates(TagId tag, const std::vector<std::string>& names) {
    Statement(db_, "DELETE FROM state WHERE tag = ?").bind(tag).run();
    reload();
    for (const std::string& name : names) addState(tag, name);
}

int Catalog::addState(TagId tagId, const std::string& name) {
    Tag* t = editable(tagId);
    if (!t) throw StoreError("there is no such tag");
    auto& places = statePlaces_[tagId];
    if (places.size() != t->states.size()) {
        places.clear();
        for (std::size_t i = 0; i < t->states.size(); ++i)
            places.try_emplace(t->states[i], static_cast<int>(i));
    }
    if (const auto known = places.find(name); known != places.end()) return known->second;
    const auto code = static_cast<int>(t->states.size());
    if (code > kMostStates)
        throw StoreError(fmt::format("{} would have more than {} states; is it a tag of numbers?", t->path(),
                                     kMostStates));
    t->states.push_back(name);
    places.emplace(name, code);
    Statement(db_, "INSERT INTO state(tag, code, name) VALUES(?, ?, ?)")
        .bind(tagId, static_cast<std::int64_t>(code), name)
        .run();
    return code;
}

void Catalog::setSpacing(TagId tagId, Duration spacing) {
    Tag* t = editable(tagId);
    if (t && t->spacing == spacing) return;
    Statement(db_, "UPDATE tag SET spacing = ? WHERE id = ?").bind(spacing, tagId).run();
    if (t) t->spacing = spacing;
}

}  // namespace jacinth
