#include "core/label/split.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <numeric>
#include <random>

#include "core/base/text.h"

namespace jacinth {
namespace {

/// Which examples hang together: sets that are joined.
class Sets {
  public:
    explicit Sets(std::size_t n) : parent_(n) { std::iota(parent_.begin(), parent_.end(), std::size_t{0}); }
    std::size_t of(std::size_t i) {
        while (parent_[i] != i) i = parent_[i] = parent_[parent_[i]];
        return i;
    }
    void join(std::size_t a, std::size_t b) { parent_[of(a)] = of(b); }

  private:
    std::vector<std::size_t> parent_;
};

void joinByGroup(const std::vector<Example>& examples, Sets& sets) {
    std::map<std::int64_t, std::size_t> first;
    for (std::size_t i = 0; i < examples.size(); ++i)
        for (const std::int64_t group : examples[i].groups) {
            const auto [known, fresh] = first.emplace(group, i);
            if (!fresh) sets.join(i, known->second);
        }
}

void joinByOverlap(const std::vector<Example>& examples, Sets& sets) {
    std::vector<std::size_t> order(examples.size());
    std::iota(order.begin(), order.end(), std::size_t{0});
    std::sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) {
        return std::tie(examples[a].asset, examples[a].cut.from) <
               std::tie(examples[b].asset, examples[b].cut.from);
    });
    std::size_t reaching = 0;  // of those so far on this asset, the one that ends last
    for (std::size_t k = 1; k < order.size(); ++k) {
        const Example &one = examples[order[reaching]], &next = examples[order[k]];
        const bool sameAsset = one.asset == next.asset;
        if (sameAsset && next.cut.from < one.cut.to) sets.join(order[reaching], order[k]);
        if (!sameAsset || next.cut.to > one.cut.to) reaching = k;
    }
}

/// What hangs together, the largest first, equals in a seeded order.
std::vector<std::vector<std::size_t>> bundles(const std::vector<Example>& examples, std::uint64_t seed) {
    Sets sets(examples.size());
    joinByGroup(examples, sets);
    joinByOverlap(examples, sets);
    std::map<std::size_t, std::vector<std::size_t>> byRoot;
    for (std::size_t i = 0; i < examples.size(); ++i) byRoot[sets.of(i)].push_back(i);
    std::vector<std::vector<std::size_t>> out;
    out.reserve(byRoot.size());
    for (auto& [root, members] : byRoot) out.push_back(std::move(members));
    std::mt19937_64 random(seed);
    std::shuffle(out.begin(), out.end(), random);
    std::stable_sort(out.begin(), out.end(),
                     [](const auto& a, const auto& b) { return a.size() > b.size(); });
    return out;
}

/// How much nearer a part comes to its shares by these examples: the change of the sum, below 0 where nearer.
double changeBy(const std::map<std::string, double>& added, const std::map<std::string, double>& there,
                const std::map<std::string, double>& totals, double share) {
    double change = 0;
    for (const auto& [kind, count] : added) {
        const double total = totals.at(kind);
        const auto has = there.find(kind);
        const double now = (has == there.end() ? 0 : has->second) - share * total;
        change += ((now + count) * (now + count) - now * now) / total;
    }
    return change;
}

}  // namespace

Result<std::array<double, 3>> readShares(const std::string& text) {
    std::array<double, 3> shares{};
    std::string_view rest = text;
    std::size_t count = 0;
    double sum = 0;
    while (!rest.empty() && count < 3) {
        const std::size_t end = std::min(rest.find(','), rest.size());
        const auto number = finiteNumber(trimmed(rest.substr(0, end)));
        rest.remove_prefix(std::min(end + 1, rest.size()));
        if (!number || *number < 0) return Error{fmt::format("`{}` are not shares; 70,15,15 are", text)};
        shares[count++] = *number / 100;
        sum += *number;
    }
    if (!rest.empty() || count < 2) return Error{fmt::format("`{}` are not shares; 70,15,15 are", text)};
    if (std::abs(sum - 100) > 1e-6)
        return Error{fmt::format("the shares {} come to {} and not to 100", text, sum)};
    // Two shares are those of training and test.
    if (count == 2) std::swap(shares[1], shares[2]);
    return shares;
}

std::vector<Part> splitApart(const std::vector<Example>& examples, const std::array<double, 3>& shares,
                             std::uint64_t seed) {
    std::map<std::string, double> totals;
    for (const Example& e : examples) ++totals[e.kind];
    std::array<std::map<std::string, double>, 3> there;
    std::vector<Part> out(examples.size(), Part::Train);
    for (const auto& bundle : bundles(examples, seed)) {
        std::map<std::string, double> added;
        for (const std::size_t i : bundle) ++added[examples[i].kind];
        std::size_t best = 0;
        double least = std::numeric_limits<double>::infinity();
        for (std::size_t part = 0; part < 3; ++part) {
            if (shares[part] <= 0) continue;
            const double change = changeBy(added, there[part], totals, shares[part]);
            if (change < least) least = change, best = part;
        }
        for (const auto& [kind, count] : added) there[best][kind] += count;
        for (const std::size_t i : bundle) out[i] = static_cast<Part>(best);
    }
    return out;
}

std::vector<bool> balanced(const std::vector<Example>& examples, const std::vector<Part>& parts,
                           std::uint64_t seed) {
    std::vector<bool> keep(examples.size(), false);
    std::mt19937_64 random(seed);
    for (std::size_t part = 0; part < kPartNames.size(); ++part) {
        std::map<std::string, std::vector<std::size_t>> byKind;
        for (std::size_t i = 0; i < examples.size(); ++i)
            if (parts[i] == static_cast<Part>(part)) byKind[examples[i].kind].push_back(i);
        std::size_t rarest = examples.size();
        for (const auto& [kind, members] : byKind) rarest = std::min(rarest, members.size());
        for (auto& [kind, members] : byKind) {
            std::shuffle(members.begin(), members.end(), random);
            for (std::size_t k = 0; k < rarest; ++k) keep[members[k]] = true;
        }
    }
    return keep;
}

}  // namespace jacinth
