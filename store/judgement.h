// What the engineers decided: fixes, golden runs, golden limits, rules, and the site's kinds of label and
// fact and its evidence.
#pragma once

#include <map>
#include <optional>
#include <set>
#include <string>
#include <unordered_map>
#include <utility>
#include <vector>

#include "core/golden/excursions.h"
#include "core/label/evidence.h"
#include "core/label/label_book.h"
#include "core/mend/fix.h"
#include "core/mend/readings.h"
#include "core/mend/trust.h"
#include "core/prove/rule.h"
#include "core/span/fact_kind.h"

namespace jacinth {

class Database;
class Tracks;

/// How many of the golden runs a set of limits would flag in one role, each judged without itself.
struct FlaggedRuns {
    int flagged = 0, of = 0;
    bool operator==(const FlaggedRuns&) const = default;
};

/// One version of a named set of golden limits: one GoldenLimits for each role. Versions are kept; see
/// work/limits/limit_choice.h for which one a run is judged by.
struct LimitSet {
    LimitSetId id;
    std::string name;
    TrackId track;
    std::vector<SpanId> goldenRuns;
    std::map<std::string, GoldenLimits> byRole;
    int version = 0;                 ///< from 1; 0 where it is not kept yet
    Instant validFrom = kNoInstant;  ///< runs that start earlier are not judged by it
    std::string forRuns;             ///< a condition about a run; empty for all runs
    Instant made{};
    std::string who;
    std::string madeFrom;  ///< mark of the golden runs and the fixes in them (work/limits/made_from.h)
    std::map<std::string, FlaggedRuns> flagged;  ///< by role; empty for limits of earlier versions
};

/// What a version of a rule did when it was proved.
struct KeptProof {
    ProofId id;
    RuleId rule;
    Proof proof;
    bool mended = true;  ///< or as logged
    std::string asset;   ///< the only one that was asked; empty for all
    Instant made{};
    std::string who;
    std::map<std::string, std::string> madeFrom;  ///< marks of what it was made from (work/prove/proofs.h)
};

/// Reads what is on file each time, except the fixes, which every reading of samples asks for: they are kept
/// until forgetFixes(). What changes something is called inside Study::change, which makes it undoable.
/// Throws StoreError where the file fails.
class Judgement {
  public:
    /// `who` is entered with each fix. All three must outlive this.
    Judgement(Database& db, const Tracks& tracks, const std::string& who)
        : db_(db), tracks_(tracks), who_(who) {}

    const std::vector<Fix>& fixes(TagId tag) const;  ///< in ledger order; until the next change
    std::vector<Fix> allFixes() const;
    std::vector<std::string> faults() const;  ///< fixes that cannot be read and are not used: one line each
    std::vector<CheckReading> checkReadings(TagId tag) const;
    const std::vector<TrustMark>& trustMarks(TagId tag) const;  ///< oldest first; until the next change
    FixId addFix(const Fix& fix);
    void updateFix(const Fix& fix);              ///< keeps its place and whether it is on
    void exchangeFixes(FixId one, FixId other);  ///< each takes the other's place in the order
    void setFixOn(FixId id, bool on);
    void removeFix(FixId id);
    void forgetFixes() { fixes_.clear(), trust_.reset(); }

    std::vector<SpanId> goldenRuns(TrackId track) const;
    std::string goldenWhy(TrackId track, SpanId run) const;
    /// These runs of the track and no others are golden. A run that was golden already keeps its reason.
    void setGoldenRuns(TrackId track, const std::vector<SpanId>& runs, const std::string& why);

    std::vector<LimitSet> limitSets() const;  ///< every version, oldest first
    std::vector<std::pair<std::string, std::set<std::string>>> limitNames() const;  ///< newest, with roles
    /// The newest version, or a certain one.
    std::optional<LimitSet> limitSetNamed(const std::string& name, int version = 0) const;
    /// The same; fails with the nearest name, or saying that it has no such version.
    Result<LimitSet> limitSetCalled(const std::string& name, int version = 0) const;
    LimitSetId putLimitSet(const LimitSet& set);                ///< as the next version of its name
    void removeLimitSet(const std::string& name, int version);  ///< every version where 0
    void renameLimitSet(const std::string& name, const std::string& newName);

    LabelBook labelBook() const;
    void setLabelBook(const LabelBook& book);
    FactKinds factKinds() const;  ///< by name
    void setFactKinds(const FactKinds& kinds);
    std::vector<EvidenceSource> evidence() const;  ///< by name
    /// Adds it, or with an id changes the one of that id.
    EvidenceId putEvidence(const EvidenceSource& source);
    void removeEvidence(EvidenceId id);

    std::vector<Rule> rules() const;                                ///< the newest version of each, by name
    std::vector<Rule> ruleVersions(const std::string& name) const;  ///< oldest first
    /// The newest version, or a certain one.
    std::optional<Rule> ruleNamed(const std::string& name, int version = 0) const;
    RuleId putRule(const Rule& rule);                       ///< as the next version of its name
    void updateRule(const Rule& rule);                      ///< the version of its id
    void removeRule(const std::string& name, int version);  ///< every version where 0; with its proofs
    void renameRule(const std::string& name, const std::string& newName);
    std::vector<KeptProof> proofs(RuleId rule) const;  ///< oldest first
    ProofId putProof(const KeptProof& proof);

  private:
    Database& db_;
    const Tracks& tracks_;
    const std::string& who_;
    mutable std::unordered_map<TagId, std::vector<Fix>> fixes_;
    mutable std::optional<std::unordered_map<TagId, std::vector<TrustMark>>> trust_;
};

}  // namespace jacinth
