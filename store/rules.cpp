// Judgement: rules in all their versions, and the proofs that are kept of them.
#include <fmt/format.h>

#include "store/database.h"
#include "store/judgement.h"
#include "store/row_sums.h"
#include "store/rule_body.h"

namespace jacinth {
namespace {

const std::string kRuleColumns = "SELECT id, name, version, text, body FROM rule ";

/// None where the row cannot be read.
std::optional<Rule> ruleFrom(Statement& s) {
    Rule rule;
    rule.id = RuleId(s.integer(0));
    rule.name = s.text(1);
    rule.version = static_cast<int>(s.integer(2));
    rule.text = s.text(3);
    if (!readRuleBody(s.text(4), rule)) return {};
    return rule;
}

}  // namespace

std::vector<Rule> Judgement::rules() const {
    std::map<std::string, Rule> newest;
    Statement s(db_, kRuleColumns + fmt::format("WHERE {} ORDER BY version", isWhole("rule")));
    while (s.more())
        if (auto rule = ruleFrom(s)) newest[rule->name] = std::move(*rule);
    std::vector<Rule> out;
    for (auto& [name, rule] : newest) out.push_back(std::move(rule));
    return out;
}

std::vector<Rule> Judgement::ruleVersions(const std::string& name) const {
    std::vector<Rule> out;
    Statement s(db_, kRuleColumns + fmt::format("WHERE name = ? AND {} ORDER BY version", isWhole("rule")));
    s.bind(name);
    while (s.more())
        if (auto rule = ruleFrom(s)) out.push_back(std::move(*rule));
    return out;
}

std::optional<Rule> Judgement::ruleNamed(const std::string& name, int version) const {
    Statement s(db_, kRuleColumns + fmt::format("WHERE name = ? AND (version = ? OR ? = 0) AND {} ORDER BY "
                                                "version DESC LIMIT 1",
                                                isWhole("rule")));
    if (!s.bind(name, version, version).more()) return {};
    return ruleFrom(s);
}

RuleId Judgement::putRule(const Rule& rule) {
    const std::int64_t before = [&] {
        Statement s(db_, "SELECT max(version) FROM rule WHERE name = ?");
        return s.bind(rule.name).more() ? s.integer(0) : 0;
    }();
    Statement(db_, "INSERT INTO rule(name, version, text, body) VALUES(?, ?, ?, ?)")
        .bind(rule.name, before + 1, rule.text, ruleBodyOf(rule))
        .run();
    return RuleId(db_.lastId());
}

void Judgement::updateRule(const Rule& rule) {
    Statement(db_, "UPDATE rule SET text = ?, body = ? WHERE id = ?")
        .bind(rule.text, ruleBodyOf(rule), rule.id)
        .run();
}

void Judgement::removeRule(const std::string& name, int version) {
    Statement(
        db_,
        "DELETE FROM proof WHERE rule IN (SELECT id FROM rule WHERE name = ? AND (version = ? OR ? = 0))")
        .bind(name, version, version)
        .run();
    Statement(db_, "DELETE FROM rule WHERE name = ? AND (version = ? OR ? = 0)")
        .bind(name, version, version)
        .run();
}

void Judgement::renameRule(const std::string& name, const std::string& newName) {
    Statement(db_, "UPDATE rule SET name = ? WHERE name = ?").bind(newName, name).run();
}

std::vector<KeptProof> Judgement::proofs(RuleId rule) const {
    std::vector<KeptProof> out;
    Statement s(
        db_, fmt::format("SELECT id, body FROM proof WHERE rule = ? AND {} ORDER BY id", isWhole("proof")));
    s.bind(rule);
    while (s.more()) {
        KeptProof proof;
        proof.id = ProofId(s.integer(0));
        proof.rule = rule;
        if (readProofBody(s.text(1), proof)) out.push_back(std::move(proof));
    }
    return out;
}

ProofId Judgement::putProof(const KeptProof& proof) {
    Statement(db_, "INSERT INTO proof(rule, body) VALUES(?, ?)").bind(proof.rule, proofBodyOf(proof)).run();
    return ProofId(db_.lastId());
}

}  // namespace jacinth
