#include "app/prove/prove_bench.h"

namespace jacinth::app {

ProveBench::ProveBench(Session& session)
    : PagedBench(session), state_(new ProveState(session)), bar_(new RuleBar(session, *state_)) {
    state_->setParent(this);
    addBar(bar_);
    addPage("proveProof", "Proof", [this] { return new ProofPage(session_, *state_); });
    addPage("proveAlarms", "Alarms", [this] { return new AlarmsPage(session_, *state_); });
    addPage("proveSearch", "Search", [this] { return new SearchPage(session_, *state_); });
    addPage("proveRules", "Rules", [this] { return new RulesPage(session_, *state_); });
    addPage("proveFailures", "Failures", [this] { return new FailuresPage(session_, *state_); });
}

void ProveBench::entered() {
    bar_->editor()->setFocus();
    bar_->showPreview();
    state_->entered();
    PagedBench::entered();
}

void ProveBench::openSpan(SpanId failure) {
    turnTo(ProveWay::Proof);
    proofPage()->openSpan(failure);
}

void ProveBench::startFrom(const QString& rule) {
    bar_->editor()->setPlainText(rule);
}

}  // namespace jacinth::app
