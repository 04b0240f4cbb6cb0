// The kiln in small: a wet bed, a drying front that breaks through, curing and cooling.
#include <algorithm>
#include <cmath>

#include "demo/plant.h"

namespace jacinth::demo {
namespace {

constexpr double kTickHours = 30.0 / 3600;

double lagged(double value, double target, double minutes) {
    return value + (target - value) * (1 - std::exp(-0.5 / minutes));
}

/// One kiln, one tick after the other.
class Kiln {
  public:
    Kiln(const PlantSpec& spec, int kiln, const std::vector<RunPlan>& plans)
        : plans_(plans),
          random_(Random(spec.seed).branch(200 + static_cast<std::uint64_t>(kiln))),
          record_(spec.record()) {
        h_.kiln = kiln;
        const auto ticks = static_cast<std::size_t>(record_.length() / kTick);
        for (auto* series : {&h_.airOn, &h_.airOff, &h_.humidity, &h_.flow, &h_.gas, &h_.damper, &h_.moisture,
                             &h_.load, &h_.pressure, &h_.belt})
            series->reserve(ticks);
        warmth_ = random_.normal(0, 0.25);
        fanSize_ = 1 + random_.normal(0, 0.012);
        lastBelt_ = record_.from - fromNanoseconds(random_.uniform(2, 10) * toNanoseconds(kDay));
        stepEnds_ = record_.from + hours(plans_[0].idleHours);
    }

    KilnHistory run() {
        for (now_ = record_.from; now_ < record_.to; now_ += kTick) {
            advanceStep();
            advanceFaults();
            advancePhysics();
            keep();
        }
        if (step_ != Step::Idle && !h_.runs.empty()) h_.runs.back().range.to = record_.to;
        return std::move(h_);
    }

  private:
    static Duration hours(double h) { return std::llround(h * 120) * kTick; }
    bool held() const { return now_ < heldUntil_; }
    const RunPlan& plan() const { return plans_[std::min(run_, plans_.size() - 1)]; }
    RunRecord& current() { return h_.runs.back(); }

    void enter(Step step, Duration length) {
        step_ = step;
        stepStarted_ = now_;
        stepEnds_ = now_ + length;
    }

    void advanceStep() {
        if (held()) {
            stepEnds_ += kTick;
            return;
        }
        switch (step_) {
            case Step::Idle:
                if (now_ >= stepEnds_) startRun();
                break;
            case Step::Load:
                if (now_ >= stepEnds_) enter(Step::FreeDry, {});
                break;
            case Step::FreeDry:
                if (front_ >= 0.9) enter(Step::ForcedDry, {});
                break;
            case Step::ForcedDry:
                if (front_ >= 1.27) enter(Step::Cure, hours(4 + random_.normal(0, 0.06)));
                break;
            case Step::Cure:
                if (now_ >= stepEnds_) enter(Step::Cool, hours(0.85));
                break;
            case Step::Cool:
                if (now_ >= stepEnds_) enter(Step::Strip, hours(0.7));
                break;
            case Step::Strip:
                if (now_ >= stepEnds_) endRun();
                break;
        }
    }

    void startRun() {
        RunRecord record;
        record.number = static_cast<int>(run_) + 1;
        record.range = {now_, now_};
        record.plan = plan();
        record.offPath = plan().offPath;
        h_.runs.push_back(record);
        front_ = 0;
        cureHeat_ = 0;
        runStarted_ = now_;
        failed_ = false;
        flamesLeft_ = plan().flameLosses;
        flameAt_ = now_ + hours(random_.uniform(3, 14));
        manual_ = {now_ + hours(random_.uniform(2, 6)), {}};
        manual_.to = manual_.from + hours(random_.uniform(2, 7));
        channel_ = {now_ + hours(random_.uniform(5, 7)), {}};
        channel_.to = channel_.from + hours(random_.uniform(2.2, 3.6));
        enter(Step::Load, hours(1 + random_.normal(0, 0.05)));
    }

    void endRun() {
        current().range.to = now_;
        current().finalMoisture =
            std::round((4.1 + 0.25 * (1.0 - cureHeat_ / 84) * 40 + random_.normal(0, 0.08)) * 100) / 100;
        const double base = current().plan.product == "Amber"   ? 8.5
                            : current().plan.product == "Wheat" ? 3.9
                                                                : 3.4;
        current().colour = std::round((base + 0.35 * (cureHeat_ - 84) + random_.normal(0, 0.12)) * 100) / 100;
        ++run_;
        enter(Step::Idle, hours(plan().idleHours));
        if (plan().washDownBefore) h_.washDowns.push_back(now_ + hours(1.5));
        changeBeltIfDue();
        if (h_.kiln == 6 && random_.chance(0.2)) {
            const Instant from = now_ + hours(0.5);
            h_.fanRunsOn.push_back({from, from + hours(random_.uniform(0.7, 3))});
        }
    }

    void changeBeltIfDue() {
        if (h_.kiln != 2 || now_ - lastBelt_ < 19 * kDay) return;
        newBelt_ = now_ + hours(2);
        h_.beltChanges.push_back(newBelt_);
        h_.stops.push_back({{now_ + hours(1), now_ + hours(3.5)}, "fan belt changed"});
    }

    void hold(Duration length, const std::string& reason) {
        heldUntil_ = now_ + length;
        h_.stops.push_back({{now_, heldUntil_}, reason});
    }

    void advanceFaults() {
        if (step_ == Step::Idle || held()) return;
        if (plan().failsAtHour && !failed_ && now_ - runStarted_ >= hours(*plan().failsAtHour)) {
            failed_ = true;
            h_.wears.push_back({now_, 3, 2.2, 3.2, ""});
            hold(hours(random_.uniform(4.5, 8)), "fan bearing failed");
            return;
        }
        const bool heating = step_ == Step::FreeDry || step_ == Step::ForcedDry || step_ == Step::Cure;
        if (flamesLeft_ > 0 && heating && now_ >= flameAt_) {
            --flamesLeft_;
            const bool stops = plan().flameLossStop;
            const Duration out = stops ? hours(random_.uniform(1, 2)) : kTick * random_.whole(2, 6);
            h_.flameLosses.push_back({{now_, now_ + out}, stops});
            burnerOutUntil_ = now_ + out;
            if (stops) hold(out, "burner did not relight");
        }
    }

    double setPoint() {
        const double into = toHours(now_ - stepStarted_);
        const double odd = h_.kiln == 4 && step_ == Step::FreeDry ? 4.5 : 0;  // the heat-recovery coil
        switch (step_) {
            case Step::Load:
                return 30;
            case Step::FreeDry:
                return 58 + 6 * std::min(1.0, into / 8) + odd;
            case Step::ForcedDry:
                return 64 + 12 * std::min(1.0, into / 3.5);
            case Step::Cure:
                return 84 + (plan().product == "Amber" ? 0.5 : 0);
            case Step::Idle:
                return outsideTemperature(now_) + 12;
            default:
                return 24;
        }
    }

    double fanSetting() const {
        switch (step_) {
            case Step::Idle:
                return 0;
            case Step::Load:
                return 0.45;
            case Step::FreeDry:
                return 1;
            case Step::ForcedDry:
                return 0.86;
            case Step::Cure:
                return 0.72;
            case Step::Cool:
                return 0.82;
            case Step::Strip:
                return 0.22;
        }
        return 0;
    }

    double damperSetting() const {
        if (plan().damperOpen && step_ != Step::Idle) return 96;
        switch (step_) {
            case Step::FreeDry:
                return 80;
            case Step::ForcedDry:
                return 80 - 42 * std::min(1.0, toHours(now_ - stepStarted_) / 3.5);
            case Step::Cure:
                return 20;
            case Step::Cool:
                return 100;
            case Step::Idle:
                return 5;
            default:
                return 60;
        }
    }

    bool offPath(OffPathKind kind) const {
        return step_ != Step::Idle && plan().offPath && plan().offPath->kind == kind;
    }
    void markOffPath() {
        auto& off = current().offPath;
        if (!off) return;
        if (off->when.from == Instant{}) off->when.from = now_;
        off->when.to = now_ + kTick;
    }

    void advancePhysics() {
        const bool heating = step_ == Step::FreeDry || step_ == Step::ForcedDry || step_ == Step::Cure;
        const bool manual = plan().manualBurner && manual_.contains(now_);
        const bool lit = heating && now_ >= burnerOutUntil_ && !held();
        burner_ = !lit ? Burner::Off : manual ? Burner::Manual : Burner::Auto;
        if (newBelt_ != Instant{} && now_ >= newBelt_) {
            lastBelt_ = newBelt_;
            newBelt_ = {};
        }
        belt_ = h_.kiln == 2 && now_ >= lastBelt_
                    ? 1 - 0.09 * std::min(1.0, toHours(now_ - lastBelt_) / (21 * 24))
                    : 1;

        double fan = held() && !h_.stops.empty() ? 0 : fanSetting() * belt_ * fanSize_;
        for (const TimeRange& r : h_.fanRunsOn)
            if (r.contains(now_)) fan = 0.5;
        if (offPath(OffPathKind::UnderFanned) && step_ == Step::FreeDry) {
            fan *= 1 - std::array{0.045, 0.09, 0.19}[static_cast<std::size_t>(plan().offPath->severity - 1)];
            markOffPath();
        }
        flow_ = lagged(flow_, fan, 1.2);

        double wanted = setPoint() + (heating ? warmth_ + plan().temperatureOffset : 0) + (manual ? 0.8 : 0);
        if (offPath(OffPathKind::HotCure) && step_ == Step::Cure) {
            wanted += std::array{1.2, 2.6, 6.0}[static_cast<std::size_t>(plan().offPath->severity - 1)];
            markOffPath();
        }
        if (heating && !lit) wanted = held() ? outsideTemperature(now_) + 22 : airOn_ - 14;
        airOn_ = lagged(airOn_, wanted, held() ? 35 : heating ? 8 : 12);

        dry();
        const double supply = 4 + 0.06 * outsideTemperature(now_);  // most of the intake air is preheated
        const double target = heating && flow_ > 0.2 ? 118 * flow_ * (airOn_ - supply) / 22 : 0;
        gas_ = lit ? lagged(gas_, target * (1 + random_.normal(0, 0.004)), 2) : lagged(gas_, 0, 0.4);
        damper_ = lagged(damper_, damperSetting(), 4);
    }

    void dry() {
        const bool drying =
            (step_ == Step::FreeDry || step_ == Step::ForcedDry || step_ == Step::Cure) && flow_ > 0.1;
        if (drying) {
            const double speed = 0.95 * flow_ + 0.05;
            front_ +=
                kTickHours * 0.0868 * speed * ((airOn_ - 24) / 37) / (plan().dryingFactor * plan().load / 42);
        }
        const double passed = 0.95 / (1 + std::exp(-(front_ - 1) / 0.05));
        double share = passed;
        if (offPath(OffPathKind::Channelling) && channel_.contains(now_) && step_ != Step::Load) {
            const double depth =
                std::array{0.035, 0.10, 0.36}[static_cast<std::size_t>(plan().offPath->severity - 1)];
            const double into = toNanoseconds(now_ - channel_.from) / toNanoseconds(channel_.length());
            share = std::max(share, share + depth * std::sin(into * 3.14159265) * (1 - share));
            markOffPath();
        }
        const double wet = 23 + 0.11 * (airOn_ - 60) + 0.02 * (outsideTemperature(now_) - 5);
        const bool bed = step_ != Step::Idle && step_ != Step::Load && step_ != Step::Strip;
        const double offTarget =
            bed ? wet + (airOn_ - wet) * share : 0.6 * airOn_ + 0.4 * (outsideTemperature(now_) + 8);
        airOff_ = lagged(airOff_, offTarget, flow_ > 0.1 ? 5 : 45);
        const double dryAir = step_ == Step::Cool ? 14 : 7 + 16 * std::exp(-std::max(0.0, front_ - 1.1) * 6);
        const double humidTarget =
            bed ? 87.5 * (1 - share / 0.95) + dryAir * share / 0.95 : outsideHumidity(now_) * 0.55 + 15;
        humidity_ = lagged(humidity_, humidTarget, flow_ > 0.1 ? 7 : 60);
        moisture_ = bed                   ? 3.9 + 40.5 * std::exp(-1.95 * std::pow(front_, 1.25))
                    : step_ == Step::Load ? 44.4
                                          : moisture_;
        if (step_ == Step::Cure)
            cureHeat_ += (airOn_ - (cureHeat_ == 0 ? 0 : cureHeat_)) * (cureHeat_ == 0 ? 1 : 0.02);
        const double resistance =
            step_ == Step::Idle || step_ == Step::Strip ? 0.15 : 0.78 + 0.22 * std::max(0.0, 1 - front_);
        pressure_ =
            lagged(pressure_, 395 * flow_ * flow_ * resistance * (1 + 0.012 * (plan().load - 42)), 1.5);
    }

    void keep() {
        h_.airOn.push_back(static_cast<float>(airOn_));
        h_.airOff.push_back(static_cast<float>(airOff_));
        h_.humidity.push_back(static_cast<float>(humidity_));
        h_.flow.push_back(static_cast<float>(flow_));
        h_.gas.push_back(static_cast<float>(gas_));
        h_.damper.push_back(static_cast<float>(damper_));
        h_.moisture.push_back(static_cast<float>(moisture_));
        h_.load.push_back(static_cast<float>(step_ == Step::Idle ? 0 : plan().load));
        h_.pressure.push_back(static_cast<float>(pressure_));
        h_.belt.push_back(static_cast<float>(belt_));
        h_.step.push_back(step_);
        h_.burner.push_back(burner_);
    }

    const std::vector<RunPlan>& plans_;
    Random random_;
    TimeRange record_;
    KilnHistory h_;
    Instant now_, stepStarted_, stepEnds_, runStarted_, heldUntil_, burnerOutUntil_, flameAt_, lastBelt_,
        newBelt_;
    TimeRange manual_, channel_;
    Step step_ = Step::Idle;
    Burner burner_ = Burner::Off;
    std::size_t run_ = 0;
    int flamesLeft_ = 0;
    bool failed_ = false;
    double warmth_ = 0, fanSize_ = 1, belt_ = 1, front_ = 0, cureHeat_ = 0;
    double airOn_ = 14, airOff_ = 12, humidity_ = 55, flow_ = 0, gas_ = 0, damper_ = 5, moisture_ = 44,
           pressure_ = 0;
};

}  // namespace

KilnHistory simulateKiln(const PlantSpec& spec, int kiln, const std::vector<RunPlan>& plans) {
    KilnHistory h = Kiln(spec, kiln, plans).run();
    // How a bearing goes is drawn once the moment is known: two start slowly, one gives hardly any warning.
    Random random = Random(spec.seed).branch(300 + static_cast<std::uint64_t>(kiln));
    constexpr std::array<double, 6> days{2.2, 6, 3.2, 4.4, 0.22, 5.6};
    for (std::size_t i = 0; i < h.wears.size(); ++i) {
        Wear& w = h.wears[i];
        w.days = i == 0 ? days[static_cast<std::size_t>((kiln - 1) % kKilns)] : 1.7 + random.uniform(0, 2);
        w.power = w.days > 5 ? 3 : w.days < 1 ? 1 : 2;
        w.rise = random.uniform(3.2, 4.2);
        w.style = w.days > 5 ? "slow start" : w.days < 1 ? "hardly any warning" : "steady";
    }
    return h;
}

double wearAt(const std::vector<Wear>& wears, Instant t) {
    double sum = 0;
    for (const Wear& w : wears) {
        const auto length = fromNanoseconds(w.days * toNanoseconds(kDay));
        const Instant from = w.failure - length;
        if (t < from || t > w.failure) continue;
        sum += w.rise * std::pow(toNanoseconds(t - from) / toNanoseconds(length), w.power);
    }
    return sum;
}

}  // namespace jacinth::demo
