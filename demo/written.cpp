#include "demo/written.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>

namespace jacinth::demo {
namespace {

const std::vector<const char*> kPeople{"M. Lunde", "R. Osen", "T. Vik", "A. Brekke"};

/// Rows by time, so that tables read like tables.
class Table {
  public:
    Table(std::string kind, std::string header) : kind_(std::move(kind)), header_(std::move(header)) {}
    void add(Instant t, std::string row) { rows_.emplace(t, std::move(row)); }
    WrittenTable take() {
        std::string text = header_ + "\n";
        for (const auto& [t, row] : rows_) text += row + "\n";
        return {kind_, text};
    }

  private:
    std::string kind_, header_;
    std::multimap<Instant, std::string> rows_;
};

std::string iso(Instant t) {
    return toIso(std::chrono::floor<std::chrono::minutes>(t));
}

class Writer {
  public:
    explicit Writer(const Truth& truth) : truth_(truth), random_(Random(truth.spec.seed).branch(600)) {}

    std::vector<WrittenTable> all() {
        for (const KilnHistory& h : truth_.kilns) {
            failures(h);
            stopsAndAlarms(h);
            batches(h);
            maintenance(h);
        }
        calibrations();
        falseSteps();
        readings();
        processChanges();
        return {failures_.take(), orders_.take(), stops_.take(),  readings_.take(),
                log_.take(),      alarms_.take(), batches_.take()};
    }

  private:
    const char* somebody() { return kPeople[static_cast<std::size_t>(random_.whole(0, 3))]; }

    /// Some entries are late, and some name the wrong kiln.
    void log(Instant t, int kiln, const std::string& text) {
        const Instant written =
            random_.chance(0.15) ? t + static_cast<int>(random_.uniform(1, 5) * 3600) * kSecond : t;
        if (!truth_.spec.record().contains(written)) return;
        const int named = random_.chance(0.04) ? kiln % kKilns + 1 : kiln;
        log_.add(written, fmt::format("{},{},{},\"{}\"", iso(written), kilnName(named), somebody(), text));
    }

    void failures(const KilnHistory& h) {
        const std::string name = kilnName(h.kiln);
        for (const Wear& w : h.wears) {
            failures_.add(w.failure, fmt::format("{},{},fan bearing,\"Fan stopped on bearing temperature\"",
                                                 name, toIso(w.failure)));
            const auto length = fromNanoseconds(w.days * toNanoseconds(kDay));
            if (w.days > 1) log(w.failure - length / 8, h.kiln, "Fan louder than usual.");
            if (w.days > 3) log(w.failure - length / 3, h.kiln, "Fan hums at forced-dry. Keep an eye on it.");
            log(w.failure + 20 * kMinute, h.kiln, "Fan tripped. Mechanics called.");
            alarms_.add(w.failure - 12 * kMinute,
                        fmt::format("{},{},{},Fan bearing temperature high", name,
                                    iso(w.failure - 12 * kMinute), iso(w.failure + 5 * kMinute)));
            const auto stop = std::find_if(h.stops.begin(), h.stops.end(),
                                           [&](const Stop& s) { return s.range.from == w.failure; });
            if (stop == h.stops.end()) continue;
            orders_.add(w.failure, fmt::format("{},{},{},\"Supply fan: bearing replaced, shaft checked\"",
                                               name, iso(w.failure + 15 * kMinute), iso(stop->range.to)));
        }
    }

    void stopsAndAlarms(const KilnHistory& h) {
        const std::string name = kilnName(h.kiln);
        for (const Stop& s : h.stops)
            stops_.add(s.range.from,
                       fmt::format("{},{},{},{}", name, toIso(s.range.from), toIso(s.range.to), s.reason));
        for (const FlameLoss& f : h.flameLosses) {
            alarms_.add(f.range.from,
                        fmt::format("{},{},{},{}", name, toIso(f.range.from), toIso(f.range.to),
                                    f.stopped ? "Burner lockout" : "Burner relit after flame loss"));
            if (f.stopped)
                log(f.range.from + 10 * kMinute, h.kiln, "Burner would not relight. Electrician on site.");
        }
    }

    void batches(const KilnHistory& h) {
        for (const RunRecord& r : h.runs) {
            if (r.range.to >= truth_.spec.record().to) continue;
            const char* shift = kPeople[static_cast<std::size_t>(r.number + h.kiln) % 4];
            batches_.add(r.range.from,
                         fmt::format("{},{},{},{},{},{:.1f},{},{:.2f},{:.2f}", kilnName(h.kiln),
                                     toIso(r.range.from), toIso(r.range.to), r.number, r.plan.product,
                                     r.plan.load, shift, r.finalMoisture, r.colour));
            if (r.offPath && r.offPath->kind == OffPathKind::HotCure && r.offPath->severity == 3)
                log(r.range.to - 2 * kHour, h.kiln, "Cure ran hot. Colour to be checked.");
            if (r.offPath && r.offPath->kind == OffPathKind::Channelling && r.offPath->severity >= 2)
                log(r.range.to - 8 * kHour, h.kiln, "Bed not even, air finds a hole.");
            if (r.plan.load > 44.5) log(r.range.from + kHour, h.kiln, "Heavy load.");
        }
    }

    void maintenance(const KilnHistory& h) {
        for (const Instant t : h.washDowns) log(t, h.kiln, "Washed down.");
        for (const Instant t : h.beltChanges) {
            orders_.add(t, fmt::format("{},{},{},\"Fan belt changed\"", kilnName(h.kiln), iso(t - kHour),
                                       iso(t + 90 * kMinute)));
            log(t + kHour, h.kiln, "New fan belt.");
        }
    }

    void calibrations() {
        for (const Drift& d : truth_.drifts) {
            if (d.range.to >= truth_.spec.record().to) continue;
            const std::string kiln = d.tag.substr(0, d.tag.find('/'));
            orders_.add(d.range.to, fmt::format("{},{},{},\"Air-off RH probe recalibrated\"", kiln,
                                                iso(d.range.to - 30 * kMinute), iso(d.range.to)));
        }
    }

    void falseSteps() {
        for (const FalseStep& s : truth_.steps)
            if (s.returns)
                log(*s.returns, s.tag[5] - '0',
                    fmt::format("{}: {}. Put right.", s.tag.substr(s.tag.find('/') + 1), s.cause));
    }

    void processChanges() {
        for (const ProcessChange& c : truth_.changes)
            orders_.add(c.time, fmt::format("{},{},{},\"{}\"", c.asset, iso(c.time - kHour), iso(c.time),
                                            c.what.substr(0, c.what.find(':'))));
    }

    /// About weekly, by hand psychrometer, during the run: a little noisy.
    void readings() {
        const TimeRange record = truth_.spec.record();
        for (const KilnHistory& h : truth_.kilns) {
            Instant t = record.from + static_cast<int>(random_.uniform(6, 60) * 3600) * kSecond;
            for (; t < record.to; t += static_cast<int>(random_.uniform(4.6, 7.6) * 86400) * kSecond) {
                Instant at = t;  // wait until the kiln dries, when the humidity is steady
                const auto dries = [&](Instant moment) {
                    return h.step[static_cast<std::size_t>((moment - record.from) / kTick)] == Step::FreeDry;
                };
                while (at < record.to && !(dries(at) && dries(at - 2 * kHour))) at += 10 * kMinute;
                if (at >= record.to) break;
                const double truth = h.humidity[static_cast<std::size_t>((at - record.from) / kTick)];
                readings_.add(at, fmt::format("{}/Air-off RH,{},{:.1f},{}", kilnName(h.kiln), toIso(at),
                                              truth + random_.normal(0, 0.5), somebody()));
            }
        }
    }

    const Truth& truth_;
    Random random_;
    Table failures_{"failures", "asset,time,kind,note"};
    Table orders_{"work-orders", "asset,opened,closed,text"};
    Table stops_{"stops", "asset,start,end,reason"};
    Table readings_{"readings", "tag,time,value,by"};
    Table log_{"log", "time,asset,author,text"};
    Table alarms_{"alarms", "asset,start,end,text"};
    Table batches_{"batches", "asset,start,end,number,product,load,shift,final moisture,colour"};
};

}  // namespace

std::vector<WrittenTable> writtenDown(const Truth& truth) {
    return Writer(truth).all();
}

}  // namespace jacinth::demo
