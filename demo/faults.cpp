// The sensors' own faults: drift, false steps, spikes, stuck values, bad stretches, gaps, a clock an hour
// off.
#include <algorithm>
#include <cmath>

#include "core/time/zone.h"
#include "demo/demo.h"

namespace jacinth::demo {
namespace {

Instant along(const TimeRange& record, double share) {
    return record.from + static_cast<int>(share * toNanoseconds(record.length()) / 1e9) * kSecond;
}
Duration daysLong(double d) {
    return static_cast<int>(d * 86400) * kSecond;
}

void drawDrifts(Truth& truth, Random random) {
    const TimeRange record = truth.spec.record();
    for (const int kiln : {1, 3, 5}) {
        Instant from = record.from + daysLong(random.uniform(1.5, 4));
        while (from < record.to - daysLong(4)) {
            const Instant to = from + daysLong(random.uniform(13, 24));
            const double end = random.uniform(5, 9.5);
            Drift d{kilnName(kiln) + "/Air-off RH", {from, std::min(to, record.to)}, end};
            if (to > record.to) d.endError = end * toNanoseconds(record.to - from) / toNanoseconds(to - from);
            truth.drifts.push_back(d);
            from = to;
        }
    }
}

void drawSteps(Truth& truth, Random random) {
    struct Form {
        int kiln;
        const char* tag;
        double at, size, days;  // days to the return; 0 for none
        const char* cause;
    };
    // Two tags of Kiln 6 share a mount and step together.
    const std::vector<Form> forms{{2, "Air-off RH", 0.18, 6.1, 0.15, "probe knocked at wash-down"},
                                  {6, "Air-off temp", 0.42, 3.2, 1.9, "mount knocked at wash-down"},
                                  {6, "Air-off RH", 0.42, -7.0, 1.9, "mount knocked at wash-down"},
                                  {4, "Bed ΔP", 0.30, 38, 0, "transmitter re-ranged"},
                                  {4, "Air-off RH", 0.50, 7.0, 0.9, "probe knocked at wash-down"},
                                  {2, "Air-off RH", 0.70, -5.5, 5.2, "probe swapped for the spare"},
                                  {6, "RH twin", 0.25, 4.4, 0, "probe re-installed"},
                                  {5, "Gas flow", 0.66, -45, 0, "meter re-ranged"},
                                  {3, "Bed ΔP", 0.40, -30, 2.0, "impulse line half blocked"}};
    const TimeRange record = truth.spec.record();
    double last = -1;
    Instant when{};
    for (const Form& f : forms) {
        if (f.at != last) when = along(record, f.at + random.uniform(-0.01, 0.01));
        last = f.at;
        FalseStep s{kilnName(f.kiln) + "/" + f.tag, when, f.size, {}, f.cause};
        if (f.days > 0 && when + daysLong(f.days) < record.to) s.returns = when + daysLong(f.days);
        truth.steps.push_back(s);
    }
    truth.changes.push_back(
        {kilnName(1), along(record, 0.58), "fan pulley changed: fan current and bed pressure both up"});
    truth.changes.push_back(
        {kilnName(5), along(record, 0.35), "burner retuned: gas flow and air-on temperature both up"});
}

void drawSmallFaults(Truth& truth, Random random) {
    const TimeRange record = truth.spec.record();
    const double share = truth.spec.days / 61.0;
    const auto some = [&](int n) { return std::max(1, static_cast<int>(std::lround(n * share))); };
    const std::vector<std::pair<const char*, double>> spiky{
        {"Air-on temp", 60}, {"Air-off temp", -40}, {"Air-off RH", 35},   {"Bed ΔP", 400},
        {"Fan current", 90}, {"Bearing vib.", 9},   {"Bearing temp", 70}, {"Gas flow", 300}};
    for (int i = 0; i < some(90); ++i) {
        const auto& [tag, size] =
            spiky[static_cast<std::size_t>(random.whole(0, static_cast<int>(spiky.size()) - 1))];
        truth.spikes.push_back({kilnName(random.whole(1, kKilns)) + "/" + tag,
                                along(record, random.uniform(0.01, 0.99)), size * random.uniform(0.6, 1.2)});
    }
    for (int i = 0; i < some(40); ++i) {
        const Instant from = along(record, random.uniform(0, 0.995));
        static const std::vector<const char*> loggers{"30 s", "60 s", "10 s"};
        truth.gaps.push_back(
            {kilnName(random.whole(1, kKilns)) + "/" + loggers[static_cast<std::size_t>(random.whole(0, 2))],
             {from, from + daysLong(random.uniform(0.004, 0.02))}});
    }
    const Instant outage = along(record, 0.47);
    truth.gaps.push_back({"Kiln 3/30 s", {outage, outage + 9 * kHour}});
    for (int i = 0; i < some(4); ++i) {
        const Instant from = along(record, random.uniform(0.05, 0.95));
        truth.stuck.push_back({kilnName(random.whole(1, kKilns)) + (i % 2 ? "/RH twin" : "/Bearing temp"),
                               {from, from + daysLong(random.uniform(0.1, 0.3))}});
    }
    for (int i = 0; i < some(6); ++i) {
        const Instant from = along(record, random.uniform(0.02, 0.97));
        truth.bad.push_back({kilnName(random.whole(1, kKilns)) + (i % 2 ? "/Bed ΔP" : "/Air-off temp"),
                             {from, from + daysLong(random.uniform(0.01, 0.06))}});
    }
    const Zone oslo = *Zone::named("Europe/Oslo");
    const Instant change = oslo.instant({2026, 3, 29, 3, 0, 0}).instant;
    if (change < record.to) truth.clockError = {"Kiln 5/60 s", {change, std::min(record.to, change + kDay)}};
}

void keepTrueValues(Truth& truth) {
    const auto add = [&](const std::string& tag, TimeRange range) {
        const int kiln = tag[5] - '0';
        const KilnHistory& h = truth.kilns[static_cast<std::size_t>(kiln - 1)];
        const TimeRange record = truth.spec.record();
        const Instant first = record.from + (std::max(range.from, record.from) - record.from) / kHour * kHour;
        for (Instant t = first; t < std::min(range.to, record.to); t += kHour)
            if (t >= range.from)
                truth.trueValues.push_back(
                    {tag, t,
                     std::round(h.humidity[static_cast<std::size_t>((t - record.from) / kTick)] * 100) /
                         100});
    };
    for (const Drift& d : truth.drifts) add(d.tag, d.range);
    for (const FalseStep& s : truth.steps)
        if (s.tag.ends_with("/Air-off RH"))
            add(s.tag, {s.time, s.returns ? *s.returns : truth.spec.record().to});
}

}  // namespace

Truth drawTruth(const PlantSpec& spec) {
    Truth truth;
    truth.spec = spec;
    const auto plans = planRuns(spec);
    for (int k = 1; k <= kKilns; ++k)
        truth.kilns.push_back(simulateKiln(spec, k, plans[static_cast<std::size_t>(k - 1)]));
    const Random root(spec.seed);
    drawDrifts(truth, root.branch(11));
    drawSteps(truth, root.branch(12));
    drawSmallFaults(truth, root.branch(13));
    keepTrueValues(truth);
    return truth;
}

}  // namespace jacinth::demo
