#include "store/derived_catalog.h"

#include <nlohmann/json.hpp>

#include "core/base/parse_json.h"
#include "store/catalog.h"
#include "store/row_sums.h"
#include "store/sample_store.h"

namespace jacinth {

std::vector<TagId> DerivedCatalog::tags() const {
    std::vector<TagId> out;
    Statement s(db_, "SELECT tag FROM derived_tag WHERE " + isWhole("derived_tag") + " ORDER BY tag");
    while (s.more()) out.push_back(s.id<TagId>(0));
    return out;
}

nlohmann::json DerivedCatalog::definition(TagId tag) const {
    Statement s(db_, "SELECT definition FROM derived_tag WHERE tag = ?");
    if (!s.bind(tag).more()) return {};
    nlohmann::json out = parseJson(s.text(0));
    return out.is_object() ? out : nlohmann::json::object();
}

void DerivedCatalog::putDefinition(TagId tag, const nlohmann::json& definition) {
    Statement(db_,
              "INSERT INTO derived_tag(tag, definition) VALUES(?, ?) ON CONFLICT(tag) DO UPDATE SET "
              "definition = excluded.definition")
        .bind(tag, definition.dump())
        .run();
}

void DerivedCatalog::removeTag(TagId tag) {
    for (const char* sql : {"DELETE FROM fix WHERE tag = ?", "DELETE FROM derived_tag WHERE tag = ?",
                            "DELETE FROM state WHERE tag = ?", "DELETE FROM tag WHERE id = ?"})
        Statement(db_, sql).bind(tag).run();
    catalog_.reload();
}

DerivedState DerivedCatalog::state(TagId tag) const {
    Statement s(db_, "SELECT made_from, at, trouble FROM derived_state WHERE tag = ?");
    if (!s.bind(tag).more()) return {};
    return {s.text(0), s.instant(1), s.text(2)};
}

void DerivedCatalog::setState(TagId tag, const DerivedState& state) {
    Statement(db_,
              "INSERT INTO derived_state(tag, made_from, at, trouble) VALUES(?, ?, ?, ?) ON CONFLICT(tag) DO "
              "UPDATE SET made_from = excluded.made_from, at = excluded.at, trouble = excluded.trouble")
        .bind(tag, state.madeFrom, state.at, state.trouble)
        .run();
}

void DerivedCatalog::dropSamples(TagId tag) {
    samples_.clear(tag);
    Statement(db_, "DELETE FROM derived_state WHERE tag = ?").bind(tag).run();
}

}  // namespace jacinth
