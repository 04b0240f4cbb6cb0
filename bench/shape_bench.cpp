// More of the same shape: ranking a record of n/4, n and 4 n values by one example, over one tag and two,
// with and without stretch; against a plain pass over the same values that adds them up. Usage: shape_bench
// [--values N] [--json]
#include <fmt/format.h>

#include <cmath>
#include <cstdlib>
#include <cstring>
#include <random>

#include "bench/figures.h"
#include "core/shape/shape_search.h"

using namespace jacinth;
using namespace jacinth::bench;

namespace {

ShapeTag record(std::size_t n, unsigned seed) {
    std::mt19937 random(seed);
    std::normal_distribution<double> step(0, 1);
    ShapeTag out;
    double level = 0;
    for (std::size_t i = 0; i < n; ++i) {
        level += step(random) - 0.01 * level;
        out.values.push_back(i % 5003 == 17 ? std::nan("") : level);
    }
    out.noise = 0.1;
    return out;
}

void measure(Figures& out, std::size_t n) {
    const std::vector<ShapeTag> one{record(n, 1)}, two{record(n, 1), record(n, 2)};
    double sum = 0;
    const double plain = secondsOf([&] {
        for (const double v : one[0].values)
            if (std::isfinite(v)) sum += v;
    });
    if (sum == 0.125) std::abort();  // the pass is not to be left out
    const auto example = [&](const std::vector<ShapeTag>& of, std::size_t length) {
        std::vector<ShapeTag> cut;
        for (const ShapeTag& t : of)
            cut.push_back(
                {{t.values.begin() + 5100, t.values.begin() + 5100 + static_cast<std::ptrdiff_t>(length)},
                 t.noise});
        return cut;
    };
    const auto add = [&](const char* what, const std::vector<ShapeTag>& of, std::size_t length,
                         double stretch) {
        ShapeSpec spec;
        spec.stretch = stretch;
        const double took = secondsOf([&] {
            if (!findShape(of, example(of, length), spec)) std::abort();
        });
        out.add(fmt::format("{} values, {}, example of {}", n, what, length), took, "s",
                fmt::format("{:.0f} times a pass over them", took / plain));
    };
    add("one tag", one, 100, 0);
    add("one tag", one, 1000, 0);
    add("two tags", two, 100, 0);
    add("one tag, stretched by 10 %", one, 100, 0.1);
}

}  // namespace

int main(int argc, char** argv) {
    Figures out(argc, argv);
    std::size_t n = 10'000'000;
    for (int i = 1; i + 1 < argc; ++i)
        if (std::strcmp(argv[i], "--values") == 0)
            n = std::max<std::size_t>(40'000, std::strtoull(argv[i + 1], nullptr, 10));
    for (const std::size_t values : {n / 4, n, 4 * n}) measure(out, values);
}
