// Prove: a rule, what it would have done on the failures there were, a better one, and whether that is luck.
#pragma once

#include "app/base/paged_bench.h"
#include "app/prove/alarms_page.h"
#include "app/prove/failures_page.h"
#include "app/prove/proof_page.h"
#include "app/prove/rule_bar.h"
#include "app/prove/rules_page.h"
#include "app/prove/search_page.h"

namespace jacinth::app {

enum class ProveWay { Proof, Alarms, Search, Rules, Failures };

class ProveBench : public PagedBench {
    Q_OBJECT
  public:
    explicit ProveBench(Session& session);
    void entered() override;
    void openSpan(SpanId failure) override;
    void turnTo(ProveWay way) { turnToPage(static_cast<int>(way)); }
    ExpressionEditor* editor() const { return bar_->editor(); }
    ProveState& state() { return *state_; }
    void startFrom(const QString& rule);
    /// Of the current rule, once it is there.
    const std::optional<Proof>& proof() const { return state_->proof(); }
    QTableView* failures() { return proofPage()->failures(); }
    QTableView* alarms() { return proofPage()->alarms(); }

  private:
    ProofPage* proofPage() { return static_cast<ProofPage*>(page(static_cast<int>(ProveWay::Proof))); }
    ProveState* state_;
    RuleBar* bar_;
};

}  // namespace jacinth::app
