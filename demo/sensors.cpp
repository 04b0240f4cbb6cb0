// What the loggers wrote: the physics seen through sensors, with jitter, noise, resolution and faults.
#include <algorithm>
#include <cmath>
#include <functional>

#include "core/base/missing.h"
#include "demo/demo.h"

namespace jacinth::demo {
namespace {

double rounded(double v, int decimals) {
    const double scale = decimals == 0 ? 1 : decimals == 1 ? 10 : 100;
    return std::round(v * scale) / scale;
}

/// Reads the physics between ticks.
class State {
  public:
    State(const Truth& truth, int kiln)
        : h_(truth.kilns[static_cast<std::size_t>(kiln - 1)]), from_(truth.spec.record().from) {}
    double at(const std::vector<float>& series, Instant t) const {
        const Duration into = std::max(Duration::zero(), t - from_);
        const auto i = std::min(series.size() - 1, static_cast<std::size_t>(into / kTick));
        const auto next = std::min(series.size() - 1, i + 1);
        const double f = toNanoseconds(into % kTick) / toNanoseconds(kTick);
        return series[i] + f * (series[next] - series[i]);
    }
    const KilnHistory& history() const { return h_; }

  private:
    const KilnHistory& h_;
    Instant from_;
};

/// Slow wobble: a first-order autoregressive process of the given spread.
class Wobble {
  public:
    Wobble(double spread, double keep) : step_(spread * std::sqrt(1 - keep * keep)), keep_(keep) {}
    double next(Random& random) { return value_ = keep_ * value_ + random.normal(0, step_); }

  private:
    double step_, keep_, value_ = 0;
};

/// Scans of one logger: every `period` with jitter, without the logger's gaps.
std::vector<Instant> scans(const Truth& truth, const std::string& logger, Duration period, Random& random) {
    const TimeRange record = truth.spec.record();
    std::vector<Instant> out;
    out.reserve(static_cast<std::size_t>(record.length() / period));
    const Duration phase = random.whole(300, 9000) * kMillisecond;
    for (Instant t = record.from + phase; t + 100 * kMillisecond < record.to; t += period)
        out.push_back(t + random.whole(-20, 20) * kMillisecond);
    for (const TagStretch& gap : truth.gaps)
        if (gap.tag == logger) std::erase_if(out, [&](Instant t) { return gap.range.contains(t); });
    return out;
}

/// Adds the faults of one tag to its clean values.
void addFaults(const Truth& truth, const std::string& path, const std::vector<Instant>& times,
               LoggerColumn& column) {
    auto& v = column.values;
    for (const Drift& d : truth.drifts)
        if (d.tag == path)
            for (std::size_t i = 0; i < v.size(); ++i)
                if (d.range.contains(times[i]))
                    v[i] +=
                        d.endError * toNanoseconds(times[i] - d.range.from) / toNanoseconds(d.range.length());
    for (const FalseStep& s : truth.steps)
        if (s.tag == path)
            for (std::size_t i = 0; i < v.size(); ++i)
                if (times[i] >= s.time && (!s.returns || times[i] < *s.returns)) v[i] += s.size;
    for (const TagStretch& s : truth.stuck)
        if (s.tag == path) {
            double held = kMissing;
            for (std::size_t i = 0; i < v.size(); ++i)
                if (s.range.contains(times[i])) v[i] = std::isnan(held) ? held = v[i] : held;
        }
    for (const Spike& s : truth.spikes)
        if (s.tag == path) {
            const auto at = std::lower_bound(times.begin(), times.end(), s.time);
            if (at != times.end()) v[static_cast<std::size_t>(at - times.begin())] += s.size;
        }
    for (const TagStretch& s : truth.bad)
        if (s.tag == path) {
            column.bad.resize(v.size(), 0);
            for (std::size_t i = 0; i < v.size(); ++i)
                if (s.range.contains(times[i])) column.bad[i] = 1;
        }
    for (double& x : v) {
        if (column.unit == "%" || column.unit == "m³/h")
            x = std::clamp(x, 0.0, column.unit == "%" ? 100.0 : 5000.0);
        x = rounded(x, column.decimals);
    }
}

class KilnSensors {
  public:
    KilnSensors(const Truth& truth, int kiln)
        : truth_(truth),
          asset_(kilnName(kiln)),
          state_(truth, kiln),
          random_(Random(truth.spec.seed).branch(400 + static_cast<std::uint64_t>(kiln))) {
        for (const ProcessChange& c : truth.changes)
            if (c.asset == asset_) change_ = &c;
        vibrationBase_ = random_.uniform(1.35, 1.7);
    }

    std::vector<Logger> all() { return {thirty(), sixty(), ten(), damper(), moisture()}; }

  private:
    const KilnHistory& h() const { return state_.history(); }
    bool changed(const char* what, Instant t) const {
        return change_ && t >= change_->time && change_->what.find(what) != std::string::npos;
    }

    Logger begin(const std::string& name, Duration period) {
        Logger out{asset_, name, {}, {}};
        out.stamps = scans(truth_, asset_ + "/" + name, period, random_);
        return out;
    }
    void add(Logger& to, const char* tag, const char* unit, int decimals,
             const std::function<double(Instant)>& value) {
        LoggerColumn column{tag, unit, decimals, {}, {}};
        column.values.reserve(to.stamps.size());
        for (const Instant t : to.stamps) column.values.push_back(value(t));
        addFaults(truth_, asset_ + "/" + tag, to.stamps, column);
        to.columns.push_back(std::move(column));
    }

    Logger thirty() {
        Logger out = begin("30 s", 30 * kSecond);
        Wobble onWobble(0.25, 0.97), offWobble(0.2, 0.98), humidityWobble(0.35, 0.98),
            pressureWobble(3, 0.97), gasWobble(4, 0.95);
        add(out, "Air-on temp", "°C", 1, [&](Instant t) {
            return state_.at(h().airOn, t) + onWobble.next(random_) + random_.normal(0, 0.08) +
                   (changed("retuned", t) ? 0.8 : 0);
        });
        add(out, "Air-off temp", "°C", 1, [&](Instant t) {
            return state_.at(h().airOff, t) + offWobble.next(random_) + random_.normal(0, 0.08);
        });
        add(out, "Air-off RH", "%", 1, [&](Instant t) {
            return state_.at(h().humidity, t) + humidityWobble.next(random_) + random_.normal(0, 0.15);
        });
        add(out, "Bed ΔP", "Pa", 0, [&](Instant t) {
            const double flow = state_.at(h().flow, t);
            return state_.at(h().pressure, t) + flow * pressureWobble.next(random_) + random_.normal(0, 1.2) +
                   (changed("pulley", t) ? 28 * flow : 0);
        });
        add(out, "Gas flow", "m³/h", 0, [&](Instant t) {
            const double gas = state_.at(h().gas, t);
            if (gas < 2) return std::max(0.0, random_.normal(0, 0.4));
            return gas + gasWobble.next(random_) + random_.normal(0, 1) + (changed("retuned", t) ? 30 : 0);
        });
        return out;
    }

    Logger sixty() {
        Logger out = begin("60 s", kMinute);
        Wobble twinWobble(0.3, 0.98), vibrationWobble(0.05, 0.97);
        const double twinOffset = random_.uniform(-1.2, 1.2);
        add(out, "RH twin", "%", 1, [&](Instant t) {
            return state_.at(h().humidity, t) + twinOffset + twinWobble.next(random_) +
                   random_.normal(0, 0.2);
        });
        add(out, "Bearing vib.", "mm/s", 2,
            [&](Instant t) { return std::max(0.02, vibration(t) + vibrationWobble.next(random_)); });
        double heat = 18;
        add(out, "Bearing temp", "°C", 1, [&](Instant t) {
            const bool on = state_.at(h().flow, t) > 0.1;
            const double worn = wearAt(h().wears, t) / 3.2;
            const double target =
                on ? 41 + 0.35 * outsideTemperature(t) + 9 * worn * worn : 10 + outsideTemperature(t);
            heat += (target - heat) / 45;
            return heat + random_.normal(0, 0.12);
        });
        // The clock: an hour and some seconds behind for a day.
        if (truth_.clockError.tag == asset_ + "/60 s")
            for (Instant& t : out.stamps)
                if (truth_.clockError.range.contains(t)) t -= kHour + 17 * kSecond;
        return out;
    }

    double vibration(Instant t) {
        const double flow = state_.at(h().flow, t);
        if (flow < 0.08) return 0.1 + std::abs(random_.normal(0, 0.015));
        double v = vibrationBase_ * (0.35 + 0.65 * flow) + random_.normal(0, 0.05) + wearAt(h().wears, t);
        v += 0.13 * std::max(0.0, state_.at(h().load, t) - 43.6);  // heavy beds shake without fault
        for (const Instant wash : h().washDowns)
            if (t >= wash && t < wash + 30 * kHour) v += 0.6 * std::exp(-toHours(t - wash) / 14);
        return v;
    }

    Logger ten() {
        Logger out = begin("10 s", 10 * kSecond);
        Wobble wobble(0.45, 0.98);
        add(out, "Fan current", "A", 1, [&](Instant t) {
            const double flow = state_.at(h().flow, t);
            if (flow < 0.05) return std::max(0.0, 0.2 + random_.normal(0, 0.05));
            const double worn = wearAt(h().wears, t) / 3.2;
            double amps = 62 * (0.22 + 0.78 * std::pow(flow, 1.8)) + 0.15 * (state_.at(h().load, t) - 42);
            if (state_.at(h().damper, t) > 90) amps *= 0.965;
            return amps - 3 * worn * worn * worn + (changed("pulley", t) ? 3.5 * flow : 0) +
                   wobble.next(random_) + random_.normal(0, 0.2);
        });
        return out;
    }

    Logger damper() {
        Logger out{asset_, "damper", {}, {}};
        LoggerColumn column{"Damper", "%", 1, {}, {}};
        const TimeRange record = truth_.spec.record();
        double last = -100;
        for (Instant t = record.from + kMinute; t < record.to;
             t += 100 * kSecond + random_.whole(0, 40'000) * kMillisecond) {
            const double v = std::clamp(
                std::round((state_.at(h().damper, t) + random_.normal(0, 0.5)) * 2) / 2, 0.0, 100.0);
            if (v == last) continue;
            last = v;
            out.stamps.push_back(t);
            column.values.push_back(v);
        }
        out.columns.push_back(std::move(column));
        return out;
    }

    Logger moisture() {
        Logger out = begin("5 min", 5 * kMinute);
        add(out, "Malt moisture", "%", 1,
            [&](Instant t) { return state_.at(h().moisture, t) + random_.normal(0, 0.22); });
        return out;
    }

    const Truth& truth_;
    std::string asset_;
    State state_;
    Random random_;
    const ProcessChange* change_ = nullptr;
    double vibrationBase_ = 1.5;
};

}  // namespace

std::vector<Logger> recordKiln(const Truth& truth, int kiln) {
    return KilnSensors(truth, kiln).all();
}

Logger recordWeather(const Truth& truth) {
    Random random = Random(truth.spec.seed).branch(500);
    Logger out{"Site", "weather", scans(truth, "Site/weather", 5 * kMinute, random), {}};
    LoggerColumn temperature{"Outside temp", "°C", 1, {}, {}}, humidity{"Outside RH", "%", 1, {}, {}};
    for (const Instant t : out.stamps) {
        temperature.values.push_back(rounded(outsideTemperature(t) + random.normal(0, 0.15), 1));
        humidity.values.push_back(
            rounded(std::clamp(outsideHumidity(t) + random.normal(0, 0.5), 0.0, 100.0), 1));
    }
    out.columns = {std::move(temperature), std::move(humidity)};
    return out;
}

}  // namespace jacinth::demo
