// Whole-tag expressions over long records in memory: sliding slope and mean, at n, 4n and 16n samples, with
// short and long windows; against reading and writing the same memory once. And the same in pieces, with the
// memory it needs. Usage: expression_bench [--samples N] [--json]
#include <fmt/format.h>
#include <sys/resource.h>

#include <cmath>
#include <cstdlib>
#include <memory>

#include "bench/figures.h"
#include "core/base/allocation.h"
#include "core/expr/pieces.h"

using namespace jacinth;
using namespace jacinth::bench;

namespace {

Series madeRecord(std::size_t n) {
    Series s;
    s.reserve(n);
    std::uint64_t random = 88172645463325252ull;
    Instant t{};
    for (std::size_t i = 0; i < n; ++i) {
        random ^= random << 13, random ^= random >> 7, random ^= random << 17;
        t += 9 * kSecond + Duration(random % 2'000'000'000);
        s.push(t, std::sin(static_cast<double>(i) * 1e-4) * 5 + static_cast<double>(random % 1000) * 1e-3);
    }
    return s;
}

/// A piece of the record, as a study would hand it out.
class PartOfRecord : public Inputs {
  public:
    PartOfRecord(const SeriesView& all, TimeRange reach) {
        signal_ = signalOf(all.within(reach), {TagKind::Continuous, kHour}, all.times.front());
    }
    Result<Signal> role(const std::string&) override { return signal_; }
    Result<Signal> path(const std::string&) override { return signal_; }

  private:
    Signal signal_;
};

double memoryMb() {
    rusage usage{};
    getrusage(RUSAGE_SELF, &usage);
    return static_cast<double>(usage.ru_maxrss) / 1024;
}

/// Once through the same bytes, in portions as the pieces are: what no calculation can be faster than.
double memoryPass(const SeriesView& s) {
    std::vector<double> out(1 << 17);
    return secondsOf([&] {
        for (std::size_t i = 0; i < s.size(); ++i)
            out[i & (out.size() - 1)] = s.values[i] + toSeconds(s.times[i]) * 1e-18;
    });
}

}  // namespace

int main(int argc, char** argv) {
    keepFreedMemory();  // as the program does
    Figures out(argc, argv);
    std::size_t most = 100'000'000;
    for (int i = 1; i + 1 < argc; ++i)
        if (std::string(argv[i]) == "--samples") most = static_cast<std::size_t>(std::atoll(argv[i + 1]));
    Names names;
    names.roles["x"] = {TagKind::Continuous, "", {}, kHour};
    const Series all = madeRecord(most);
    const double before = memoryMb();
    for (const std::size_t n : {most / 16, most / 4, most}) {
        const SeriesView used{std::span(all.times).first(n), std::span(all.values).first(n), {}};
        const TimeRange range{used.times.front(), used.times.back() + kNanosecond};
        const double pass = memoryPass(used);
        for (const char* text :
             {"slope(@x over 6h)", "mean(@x over 6h)", "slope(@x over 6h) > 0.03 and mean(@x over 6h) < 4",
              "slope(@x over 7d) > 0.03 and mean(@x over 7d) < 4"}) {
            const Expression expression = *compileExpression(text, names);
            std::size_t knots = 0;
            const double took = medianSeconds([&] {
                knots = 0;
                const auto done = evaluateInPieces(
                    expression, range, piecesFor(expression, 10 * kSecond, kHour),
                    [&](TimeRange reach) -> std::unique_ptr<Inputs> {
                        return std::make_unique<PartOfRecord>(used, reach);
                    },
                    [&](TimeRange, const Value& v) {
                        knots += std::holds_alternative<Signal>(v) ? std::get<Signal>(v).times.size()
                                                                   : std::get<Condition>(v).times.size();
                    });
                if (!done) std::abort();
            });
            out.add(fmt::format("{} · {:.2g} samples", text, static_cast<double>(n)), took, "s",
                    fmt::format("{:.0f} × one pass over memory, {} knots", took / pass, knots));
        }
    }
    out.add("memory beyond the record itself", memoryMb() - before, "MB");
    return 0;
}
