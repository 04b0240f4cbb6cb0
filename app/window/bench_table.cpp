#include "app/window/bench_table.h"

#include <array>

#include "app/label/label_bench.h"
#include "app/mend/mend_bench.h"
#include "app/prove/prove_bench.h"
#include "app/screen/screen_bench.h"
#include "app/survey/survey_bench.h"

namespace jacinth::app {
namespace {

template <typename B>
Bench* made(Session& session) {
    return new B(session);
}

constexpr std::array<BenchRow, kBenches> kTable{{
    {BenchId::Survey, "Survey", "survey", "Ctrl+1", &SurveyBench::pages, &made<SurveyBench>},
    {BenchId::Mend, "Mend", "mend", "Ctrl+2", &MendBench::pages, &made<MendBench>},
    {BenchId::Screen, "Screen", "screen", "Ctrl+3", &ScreenBench::pages, &made<ScreenBench>},
    {BenchId::Label, "Label", "label", "Ctrl+4", &LabelBench::pages, &made<LabelBench>},
    {BenchId::Prove, "Prove", "prove", "Ctrl+5", nullptr, &made<ProveBench>},
}};

constexpr bool inOrder() {
    for (std::size_t i = 0; i < kTable.size(); ++i)
        if (static_cast<std::size_t>(kTable[i].id) != i) return false;
    return true;
}
static_assert(inOrder(), "the rows stand in the order of BenchId");

}  // namespace

std::span<const BenchRow> benchTable() {
    return kTable;
}

}  // namespace jacinth::app
