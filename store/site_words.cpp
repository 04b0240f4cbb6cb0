// Judgement: the kinds of fact that the site has defined, and where its evidence is kept.
#include <algorithm>
#include <nlohmann/json.hpp>

#include "store/database.h"
#include "store/json_body.h"
#include "store/judgement.h"
#include "store/row_sums.h"

namespace jacinth {
namespace {

using nlohmann::json;

std::string bodyOf(const FactKind& kind) {
    return json{{"type", factTypeName(kind.type)},
                {"unit", kind.unit},
                {"choices", kind.choices},
                {"meaning", kind.meaning}}
        .dump();
}

FactKind factKindFrom(const std::string& name, const std::string& text) {
    JsonBody body(text);
    FactKind kind{name,
                  factTypeNamed(body.text("type")).value_or(FactType::Text),
                  body.text("unit"),
                  {},
                  body.text("meaning")};
    kind.choices = body.texts("choices");
    return kind;
}

std::string bodyOf(const EvidenceSource& source) {
    return json{{"kind", nameOf(source.kind)},
                {"path", source.path},
                {"asset", source.asset},
                {"offset", source.offset.count()},
                {"begins", epochNanoseconds(source.begins)},
                {"how", source.how}}
        .dump();
}

EvidenceSource evidenceFrom(EvidenceId id, const std::string& name, const std::string& text) {
    JsonBody body(text);
    constexpr std::int64_t kMost = kLongestTime.count();
    auto kind = std::find(kEvidenceKinds.begin(), kEvidenceKinds.end(), body.text("kind"));
    if (kind == kEvidenceKinds.end()) kind = kEvidenceKinds.begin();
    return {id,
            name,
            static_cast<EvidenceKind>(kind - kEvidenceKinds.begin()),
            body.text("path"),
            body.id<AssetId>("asset"),
            Duration(body.integer("offset", -kMost, kMost, 0)),
            body.instant("begins", Instant()),
            body.text("how")};
}

}  // namespace

FactKinds Judgement::factKinds() const {
    FactKinds out;
    Statement s(db_, "SELECT name, body FROM fact_kind WHERE " + isWhole("fact_kind") + " ORDER BY name");
    while (s.more()) out.push_back(factKindFrom(s.text(0), s.text(1)));
    return out;
}

void Judgement::setFactKinds(const FactKinds& kinds) {
    db_.run("DELETE FROM fact_kind");
    Statement s(db_, "INSERT INTO fact_kind(name, body) VALUES(?, ?)");
    for (const FactKind& kind : kinds) s.bind(kind.name, bodyOf(kind)).run();
}

std::vector<EvidenceSource> Judgement::evidence() const {
    std::vector<EvidenceSource> out;
    Statement s(db_, "SELECT id, name, body FROM evidence WHERE " + isWhole("evidence") + " ORDER BY name");
    while (s.more()) out.push_back(evidenceFrom(s.id<EvidenceId>(0), s.text(1), s.text(2)));
    return out;
}

EvidenceId Judgement::putEvidence(const EvidenceSource& source) {
    if (source.id) {
        Statement(db_, "UPDATE evidence SET name = ?, body = ? WHERE id = ?")
            .bind(source.name, bodyOf(source), source.id)
            .run();
        return source.id;
    }
    Statement(db_, "INSERT INTO evidence(name, body) VALUES(?, ?)").bind(source.name, bodyOf(source)).run();
    return EvidenceId(db_.lastId());
}

void Judgement::removeEvidence(EvidenceId id) {
    Statement(db_, "DELETE FROM evidence WHERE id = ?").bind(id).run();
}

}  // namespace jacinth
