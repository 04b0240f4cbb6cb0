#include "zoo/plant.h"

#include <algorithm>

#include "zoo/sensors.h"

namespace jacinth::zoo {
namespace {

/// Plants what is wrong with the sensors: no two steps, changes or ends within a day of each other.
class Faults {
  public:
    Faults(Plant& plant, Random& random) : plant_(plant), random_(random) {
        for (const TrueChange& c : plant.changes) taken_.push_back(c.time);
    }
    void addAll() {
        if (random_.chance(0.3)) addDrift();
        for (int i = random_.whole(2, 5); i > 0; --i) addStep();
        for (int i = random_.whole(0, 6); i > 0; --i) {
            const std::size_t tag = random_.below(plant_.tags.size());
            plant_.spikes.push_back(
                {tag, anyTime(), random_.sign() * random_.between(15, 40) * plant_.tags[tag].noise});
        }
        if (random_.chance(0.4)) addStuck();
    }

  private:
    Instant anyTime() {
        return plant_.range.from + scaled(plant_.range.length(), random_.between(0.05, 0.95));
    }
    bool isFree(Instant t) const {
        return std::none_of(taken_.begin(), taken_.end(), [&](Instant o) { return abs(o - t) < kDay; });
    }
    std::optional<Instant> freeTime() {
        for (int attempt = 0; attempt < 50; ++attempt)
            if (const Instant t = anyTime(); isFree(t)) return t;
        return {};
    }
    void addStep() {
        const auto time = freeTime();
        if (!time) return;
        std::optional<Instant> returns;
        if (random_.chance(0.5)) {
            const Instant back = *time + scaled(kHour, random_.scaleBetween(4, 150));
            if (back < plant_.range.to - kDay && (back < *time + kDay || isFree(back))) returns = back;
        }
        std::vector<std::size_t> tags{random_.below(plant_.tags.size())};
        if (plant_.tags.size() >= 5 && random_.chance(0.2))
            if (const std::size_t mate = random_.below(plant_.tags.size()); mate != tags[0])
                tags.push_back(mate);
        for (const std::size_t tag : tags) {
            const double inNoise = random_.scaleBetween(3, 20);
            plant_.steps.push_back({tag, *time, random_.sign() * inNoise * plant_.tags[tag].noise, inNoise,
                                    returns, tags.size() > 1});
        }
        taken_.push_back(*time);
        if (returns) taken_.push_back(*returns);
    }
    void addDrift() {
        const auto end = freeTime();
        if (!end) return;
        const Instant from = *end - scaled(kDay, random_.between(7, 20));
        const std::size_t tag = random_.below(plant_.tags.size());
        plant_.drifts.push_back(
            {tag, {from, *end}, random_.sign() * random_.between(5, 15) * plant_.tags[tag].noise});
        taken_.push_back(*end);
    }
    void addStuck() {
        if (const auto from = freeTime())
            plant_.stuck.push_back({random_.below(plant_.tags.size()),
                                    {*from, *from + scaled(kHour, random_.scaleBetween(2, 20))}});
    }

    Plant& plant_;
    Random& random_;
    std::vector<Instant> taken_;
};

Error errorOf(const Plant& plant, std::size_t tag) {
    return [&plant, tag](Instant t) {
        double out = 0;
        for (const TrueStep& s : plant.steps)
            if (s.tag == tag && t >= s.time && (!s.returns || t < *s.returns)) out += s.size;
        for (const TrueDrift& d : plant.drifts)
            if (d.tag == tag && d.range.contains(t))
                out += d.end * toSeconds(t - d.range.from) / toSeconds(d.range.length());
        return out;
    };
}

/// The spikes and stuck stretches of one tag, in what was read.
void spoil(Plant& plant, std::size_t tag) {
    Series& s = plant.tags[tag].series;
    for (TrueSpike& spike : plant.spikes) {
        if (spike.tag != tag) continue;
        const std::size_t i = std::min(firstNotBefore(s.times, spike.time), s.size() - 1);
        s.values[i] += spike.size;
        spike.time = s.times[i];
    }
    for (const TrueStuck& stuck : plant.stuck) {
        if (stuck.tag != tag) continue;
        const std::size_t from = firstNotBefore(s.times, stuck.range.from);
        for (std::size_t i = from; i < s.size() && s.times[i] < stuck.range.to; ++i)
            s.values[i] = s.values[from];
    }
}

/// What a change moved within ten minutes, less what it moved in the ten before: by five times the noise.
void nameTags(const Process& process, Plant& plant) {
    constexpr std::size_t kWithin = 10;
    for (TrueChange& change : plant.changes) {
        const auto at = static_cast<std::size_t>((change.time - Instant{}) / kMinute);
        for (std::size_t i = 0; i < plant.tags.size(); ++i) {
            const Minutes& v = process.quantities[i].values;
            const double start = v[at - 1], before = start - v[at - 1 - kWithin];
            if (std::abs(v[at - 1 + kWithin] - start - before) >= 5 * plant.tags[i].noise)
                change.tags.push_back(i);
        }
    }
}

void addStates(const Process& process, Plant& plant) {
    std::vector<RecurringStretch> scale;
    for (std::size_t m = 0; m < process.states.size(); ++m) {
        const Instant t = Instant{} + static_cast<std::int64_t>(m) * kMinute;
        if (m == 0 || process.states[m] != process.states[m - 1]) {
            scale.push_back({process.states[m], {t, t}});
            plant.stateChanges.push_back(t);
        }
        scale.back().range.to = t + kMinute;
    }
    if (!scale.empty()) plant.scales.push_back(std::move(scale));
}

}  // namespace

Plant makePlant(Family family, std::uint64_t seed) {
    Random random(seed * 1000 + static_cast<std::uint64_t>(family));
    const Process process = processOf(family, random);
    const std::vector<Sensor> sensors = sensorsFor(process, random);
    const std::vector<double> noise = unexplained(process, sensors);
    Plant out;
    out.family = family;
    out.range = {Instant{}, Instant{} + static_cast<std::int64_t>(process.minutes) * kMinute};
    out.changes = process.changes;
    for (std::size_t i = 0; i < process.quantities.size(); ++i)
        out.tags.push_back({process.quantities[i].name, process.quantities[i].unit, {}, noise[i]});
    nameTags(process, out);
    addStates(process, out);
    Faults(out, random).addAll();
    for (std::size_t i = 0; i < out.tags.size(); ++i) {
        out.tags[i].series = read(process.quantities[i].values, sensors[i], errorOf(out, i));
        spoil(out, i);
    }
    return out;
}

}  // namespace jacinth::zoo
