#include "work/prove/comparing.h"

#include <fmt/format.h>

#include <algorithm>

namespace jacinth {
namespace {

/// Adds what one rule's proof says of each failure.
void addProof(ComparedRules& out, std::size_t place, const Proof& proof) {
    for (const FailureVerdict& f : proof.failures) {
        auto at = std::find_if(out.failures.begin(), out.failures.end(), [&](const ComparedFailure& known) {
            return known.asset == f.asset && known.time == f.time;
        });
        if (at == out.failures.end()) at = out.failures.insert(at, {f.asset, f.time, {}, {}});
        if (f.testable) at->testableBy.push_back(place);
        if (f.caught) at->caughtBy.push_back(place);
    }
}

void count(ComparedRules& out) {
    const std::size_t n = out.proofs.size();
    out.alone.assign(n, 0);
    out.both.assign(n, std::vector<int>(n, 0));
    for (const ComparedFailure& f : out.failures) {
        out.caughtByAny += !f.caughtBy.empty();
        if (f.caughtBy.size() == 1) ++out.alone[f.caughtBy.front()];
        for (const std::size_t a : f.caughtBy)
            for (const std::size_t b : f.caughtBy) ++out.both[a][b];
    }
}

}  // namespace

Result<ComparedRules> compareRules(Study& study, const std::vector<NamedRule>& rules,
                                   const Progress& progress) {
    if (rules.size() < 2) return Error{"say two rules or more to compare"};
    ComparedRules out;
    const double all = static_cast<double>(rules.size());
    for (std::size_t i = 0; i < rules.size(); ++i) {
        const double n = static_cast<double>(i);
        auto proof = proveRule(study, rules[i].request, progress.part(n / all, (n + 1) / all));
        if (!proof) {
            Error why = proof.error();
            if (why.kind != ErrorKind::Cancelled)
                why.message = fmt::format("{}: {}", rules[i].name, why.message);
            return why;
        }
        addProof(out, i, *proof);
        out.proofs.push_back(std::move(*proof));
    }
    std::stable_sort(out.failures.begin(), out.failures.end(),
                     [](const ComparedFailure& a, const ComparedFailure& b) { return a.time < b.time; });
    count(out);
    return out;
}

}  // namespace jacinth
