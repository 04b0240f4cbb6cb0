// What the pages of Prove share: the current rule, what the study makes of it, and its proof.
#pragma once

#include <QObject>
#include <QTimer>
#include <set>

#include "app/base/request.h"
#include "app/base/session.h"
#include "app/prove/starting_numbers.h"
#include "work/base/study_inputs.h"
#include "work/prove/kept_figures.h"
#include "work/prove/proofs.h"

namespace jacinth::app {

class ProveState : public QObject {
    Q_OBJECT
  public:
    /// Begins with the rule that was current when the study was last open, or with the first that is kept.
    explicit ProveState(Session& session);

    const Rule& rule() const { return rule_; }
    /// With the data that is shown.
    ProveRequest request() const;
    /// Why it cannot be proved; none where it can, and while the text is empty.
    const std::optional<Error>& trouble() const { return trouble_; }
    bool provable() const { return fleet_.has_value(); }
    const std::optional<FleetExpression>& fleet() const { return fleet_; }
    /// Roles that the rule names, then paths.
    const std::vector<std::string>& tagNames() const { return tagNames_; }
    TagId tagOf(AssetId asset) const;  ///< the first of these; none where the asset has none
    /// Selects the asset and the rule's tag there; returns the moment that Survey is to show.
    ShowMoment pointAtFailure(AssetId asset, Instant failure);
    ShowMoment pointAtAlarm(const AlarmVerdict& alarm);

    /// A rule that is kept, or a new one, becomes current.
    void take(const Rule& rule);
    void rename(const std::string& name);  ///< the rule that it is a version of has another name
    void setText(const std::string& text);
    void setSetting(const std::string& name, double value);
    void setSettings(const Settings& settings);  ///< of those that its text has
    /// What the search that found these settings said; forgotten when anything of the rule changes.
    void setSearched(const std::string& verdict);
    /// Numbers to begin with and ranges to search, of the current rule's settings. Looked for where a setting
    /// is new; findRanges() asks for them in any case.
    StartingNumbers& starting() { return *starting_; }
    void findRanges();
    void setSpec(const ProveSpec& spec);
    void setFailures(const std::string& kindOrTrack);
    void setMasks(const std::vector<std::string>& masks);

    /// The last proof; of the rule as it was when it was asked for. None before the first, and for a rule
    /// that cannot be proved.
    const std::optional<Proof>& proof() const { return proof_; }
    /// Is it of the current rule as it is now?
    bool proofIsCurrent() const { return proof_ && !stale_; }
    double proofSeconds() const { return seconds_; }
    bool proving() const { return proving_; }
    void proveNow();
    /// Soon, unless the proof is current.
    void proveSoon();
    /// The bench is looked at: what changed in the meantime is taken notice of.
    void entered();

    /// The version that the current rule says the same as; none where it is kept nowhere.
    std::optional<Rule> keptAs() const;
    /// Keeps the current rule with these words, and its proof where it is current.
    bool keep(const Rule& words);

  signals:
    void ruleTaken();    ///< another rule is current: fields fill themselves again
    void ruleChanged();  ///< its text, numbers or terms
    void proved();       ///< there is another proof, or none any more
    void provingChanged();

  private:
    void changed();
    void check();
    void fillSettings();
    bool begins() const;  ///< has it a setting that nobody gave a number, and is one being looked for?
    ProveRequest startingRequest() const;  ///< without the numbers that nobody gave
    bool begin();  ///< with the numbers that were found; true where one is another now
    void takeStartingNumbers();
    void remember();
    void studyChanged();
    Session& session_;
    Rule rule_;
    Settings hadBefore_;           ///< numbers of settings since the rule became current
    std::set<std::string> begun_;  ///< settings whose number nobody gave
    StartingNumbers* starting_;
    std::optional<Error> trouble_;
    std::optional<FleetExpression> fleet_;
    std::vector<std::string> tagNames_;
    std::optional<Proof> proof_;
    std::map<std::string, std::string> madeFrom_;  ///< of the proof
    bool stale_ = true, proving_ = false, wanted_ = false, unseen_ = false;
    double seconds_ = 0;
    QTimer* soon_;
    /// What proofs share as one types. A job may still be at it when this is gone.
    std::shared_ptr<KeptFigures> kept_ = std::make_shared<KeptFigures>();
};

}  // namespace jacinth::app
