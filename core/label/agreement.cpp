#include "core/label/agreement.h"

#include <algorithm>
#include <cmath>
#include <set>

#include "core/base/missing.h"

namespace jacinth {
namespace {

/// The kinds of all labels over a moment, in order, with a plus between them.
std::string kindAt(const std::vector<SaidOf>& said, AssetId asset, Instant t) {
    std::set<std::string> kinds;
    for (const SaidOf& s : said)
        if (s.asset == asset && s.range.contains(t)) kinds.insert(s.kind);
    std::string out;
    for (const std::string& kind : kinds) out += (out.empty() ? "" : " + ") + kind;
    return out;
}

std::vector<SaidOf> of(const std::vector<SaidOf>& said, AssetId asset) {
    std::vector<SaidOf> out = said;
    std::erase_if(out, [&](const SaidOf& s) { return s.asset != asset || s.kind.empty(); });
    return out;
}

void addPiece(AssetId asset, TimeRange piece, const std::string& one, const std::string& two,
              Agreement& out) {
    Duration& sum = one.empty() ? (two.empty() ? out.neither : out.two) : (two.empty() ? out.one : out.both);
    sum += piece.length();
    if (one == two) return;
    if (!out.differences.empty()) {
        Difference& last = out.differences.back();
        if (last.asset == asset && last.range.to == piece.from && last.one == one && last.two == two) {
            last.range.to = piece.to;
            return;
        }
    }
    out.differences.push_back({asset, piece, one, two});
}

}  // namespace

Agreement agreementOf(const std::vector<SaidOf>& one, const std::vector<SaidOf>& two,
                      const std::map<AssetId, TimeRange>& looked) {
    Agreement out;
    std::map<std::string, double> ofOne, ofTwo;
    double all = 0, agreed = 0;
    for (const auto& [asset, whole] : looked) {
        const std::vector<SaidOf> a = of(one, asset), b = of(two, asset);
        std::vector<Instant> edges{whole.from, whole.to};
        for (const auto* side : {&a, &b})
            for (const SaidOf& s : *side)
                for (const Instant t : {s.range.from, s.range.to})
                    if (t > whole.from && t < whole.to) edges.push_back(t);
        std::sort(edges.begin(), edges.end());
        for (std::size_t i = 0; i + 1 < edges.size(); ++i) {
            const TimeRange piece{edges[i], edges[i + 1]};
            const double weight = toSeconds(piece.length());
            if (weight <= 0) continue;
            const std::string sayA = kindAt(a, asset, piece.from), sayB = kindAt(b, asset, piece.from);
            ofOne[sayA] += weight, ofTwo[sayB] += weight, all += weight;
            if (sayA == sayB) agreed += weight;
            addPiece(asset, piece, sayA, sayB, out);
        }
    }
    if (all <= 0) {
        out.kappa = out.observed = out.byChance = kMissing;
        return out;
    }
    out.observed = agreed / all;
    for (const auto& [kind, weight] : ofOne)
        if (const auto other = ofTwo.find(kind); other != ofTwo.end())
            out.byChance += weight / all * (other->second / all);
    out.kappa = out.byChance < 1 ? (out.observed - out.byChance) / (1 - out.byChance) : kMissing;
    return out;
}

}  // namespace jacinth
