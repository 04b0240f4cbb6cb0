#include "work/report/report.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <cmath>

#include "store/judgement.h"
#include "store/tracks.h"
#include "work/limits/excursion_tables.h"
#include "work/limits/screening.h"
#include "work/mend/mending.h"
#include "work/prove/breakdown.h"
#include "work/prove/proofs.h"

namespace jacinth {
namespace {

std::string escaped(const std::string& text) {
    std::string out;
    for (const char c : text) {
        if (c == '<')
            out += "&lt;";
        else if (c == '>')
            out += "&gt;";
        else if (c == '&')
            out += "&amp;";
        else if (c == '"')
            out += "&quot;";
        else
            out += c;
    }
    return out;
}

/// ` (12 – 45 %)`, or nothing where there is no range.
std::string rangeText(const Proportion& p) {
    if (!std::isfinite(p.low) || !std::isfinite(p.high)) return "";
    return fmt::format(" ({:.0f} – {:.0f} %)", p.low * 100, p.high * 100);
}

constexpr const char* kHead =
    R"(<!doctype html><html lang="en"><head><meta charset="utf-8"><title>{0}</title><style>
body{{font:14px/1.45 Inter,system-ui,sans-serif;color:#23262D;background:#FBFAF7;max-width:960px;margin:32px auto;padding:0 24px}}
h1{{font-size:22px}}h2{{font-size:16px;margin-top:32px}}table{{border-collapse:collapse;width:100%;font-variant-numeric:tabular-nums}}
td,th{{text-align:left;padding:3px 12px 3px 0;border-bottom:1px solid #D9D4CB;font-weight:normal}}th{{color:#6B6F76}}
td.n{{text-align:right}}code{{background:#F4F1EC;padding:2px 6px}}.s{{color:#6B6F76}}.a{{color:#B93A14}}</style></head><body><h1>{0}</h1>
)";

class Report {
  public:
    Report(Study& study, const Progress& progress, const Grouping& grouping)
        : study_(study), zone_(study.zone()), progress_(progress), grouping_(grouping) {}

    Result<std::string> make() {
        const auto sets = study_.judgement().limitSets();
        const auto rules = study_.judgement().rules();
        const double parts = static_cast<double>(sets.size() + rules.size() + 3);
        double done = 0;
        const auto more = [&] { return !progress_.stopped(done++ / parts); };
        const TimeRange record = study_.record();
        out_ = fmt::format(fmt::runtime(kHead), escaped(study_.plantName()));
        std::int64_t samples = 0;
        for (const Tag& t : study_.catalog().tags()) samples += study_.reader(t.id).whole(t.id).count;
        line(fmt::format("{} to {} · {} tags on {} assets · {} samples · all times {}",
                         zone_.text(record.from), zone_.text(record.to), study_.catalog().tags().size(),
                         study_.catalog().assets().size(), samples, zone_.name()));
        if (grouping_.only) line("Listed is what is on " + groupTitle(grouping_) + " alone.");
        groups();
        for (const LimitSet& set : sets) {
            if (!more()) return Error::cancelled();
            limits(set);
        }
        excursions();
        fixes();
        labels();
        for (const Rule& rule : rules) {
            if (!more()) return Error::cancelled();
            proof(rule);
        }
        return out_ + "</body></html>\n";
    }

  private:
    void line(const std::string& text) { out_ += "<p class=s>" + escaped(text) + "</p>\n"; }
    void title(const std::string& text) { out_ += "<h2>" + escaped(text) + "</h2>\n"; }
    void header(std::initializer_list<const char*> names) {
        out_ += "<table><tr>";
        for (const char* n : names) out_ += fmt::format("<th>{}</th>", n);
        out_ += "</tr>\n";
    }
    void row(const std::vector<std::string>& cells) {
        out_ += "<tr>";
        for (const std::string& c : cells) out_ += "<td>" + escaped(c) + "</td>";
        out_ += "</tr>\n";
    }
    std::string assetName(AssetId id) const {
        const Asset* a = study_.catalog().asset(id);
        return a ? a->name : "";
    }

    bool isListed(AssetId id) const { return isIn(study_, grouping_, id); }
    AssetId assetOf(TagId id) const {
        const Tag* tag = study_.catalog().tag(id);
        return tag ? tag->asset : AssetId();
    }

    /// What there is on the assets of each group.
    void groups() {
        if (grouping_.fact.empty()) return;
        const AssetGroups groups(study_, grouping_.fact);
        struct Counts {
            std::size_t tags = 0, runs = 0, excursions = 0, failures = 0, labels = 0, fixes = 0;
        };
        std::vector<Counts> counts(groups.all().size() + 1);  // the last of what is on no asset
        const auto of = [&](AssetId id) -> Counts& { return counts[groups.placeOf(id)]; };
        for (const Tag& t : study_.catalog().tags()) ++of(t.asset).tags;
        for (const Span& s : study_.tracks().spansOf(track_kind::kRuns)) ++of(s.asset).runs;
        for (const KeptExcursion& e : excursionsOf(study_))
            of(e.span.asset).excursions += e.dismissed.empty();
        for (const Span& s : study_.tracks().spansOf(track_kind::kFailures)) ++of(s.asset).failures;
        for (const Span& s : study_.tracks().spansOf(track_kind::kLabels)) ++of(s.asset).labels;
        for (const Fix& f : study_.judgement().allFixes()) of(assetOf(f.tag)).fixes += f.on;
        title("By " + grouping_.fact);
        header({"group", "assets", "tags", "runs", "excursions", "failures", "labels", "fixes"});
        for (std::size_t i = 0; i < groups.all().size(); ++i) {
            const AssetGroups::Group& g = groups.all()[i];
            std::vector<std::string> cells{groups.nameOf(g)};
            for (const std::size_t n : {g.assets.size(), counts[i].tags, counts[i].runs, counts[i].excursions,
                                        counts[i].failures, counts[i].labels, counts[i].fixes})
                cells.push_back(std::to_string(n));
            row(cells);
        }
        out_ += "</table>\n";
    }

    void limits(const LimitSet& set) {
        title("Golden limits " + set.name);
        line(fmt::format("{} golden runs, {} tags", set.goldenRuns.size(), set.byRole.size()));
        const auto all = excursionsOf(study_);
        const auto worst = std::max_element(all.begin(), all.end(), [&](const auto& a, const auto& b) {
            const auto rank = [&](const KeptExcursion& e) {
                const bool ours = e.limits == limitsTitle(set) && e.dismissed.empty();
                return std::tuple(ours, e.severity, std::abs(e.area));
            };
            return rank(a) < rank(b);
        });
        if (worst != all.end() && worst->limits == limitsTitle(set) && set.byRole.contains(worst->role))
            overlay(set, *worst);
    }

    /// The run of the worst excursion over its corridor.
    void overlay(const LimitSet& set, const KeptExcursion& e) {
        const auto run = study_.tracks().span(e.run);
        const Tag* tag = study_.catalog().tag(e.span.tag);
        if (!run || !tag) return;
        const LimitsOfRuns judged(study_, set, e.role, Which::Mended);
        const auto limits = limitsInTime(judged.of(e.run), judged.scaleOf(*run));
        const auto columns = study_.columns(*tag, run->range(), 880, Which::Mended);
        double low = 1e300, high = -1e300;
        for (const Summary& c : columns)
            if (c.usable) low = std::min(low, c.least), high = std::max(high, c.greatest);
        for (const LimitMoment& m : limits)
            if (std::isfinite(m.limits.low))
                low = std::min(low, m.limits.low), high = std::max(high, m.limits.high);
        if (low >= high) return;
        const double length = toHours(run->end - run->start);
        const auto x = [&](double hours) { return 40 + hours / length * 880; };
        const auto y = [&](double v) { return 250 - (v - low) / (high - low) * 230; };
        std::string upper, lower, path;
        for (const LimitMoment& m : limits) {
            if (!std::isfinite(m.limits.low)) continue;
            const double at = x(toHours(m.time - run->start));
            upper += fmt::format("{:.1f},{:.1f} ", at, y(m.limits.high));
            lower.insert(0, fmt::format("{:.1f},{:.1f} ", at, y(m.limits.low)));
        }
        for (const Summary& c : columns)
            if (c.usable && c.firstTime >= run->start && c.lastTime <= run->end)
                path += fmt::format("{:.1f},{:.1f} {:.1f},{:.1f} ", x(toHours(c.firstTime - run->start)),
                                    y(c.least), x(toHours(c.firstTime - run->start)), y(c.greatest));
        out_ += fmt::format(
            "<svg viewBox='0 0 940 290' width='100%'><polygon points='{}{}' fill='#F2C14E' "
            "fill-opacity='.33' stroke='#A87B08'/>"
            "<polyline points='{}' fill='none' stroke='#23262D' stroke-width='1.4'/>"
            "<rect x='{:.1f}' y='256' width='{:.1f}' height='6' fill='#B93A14'/>"
            "<text x='40' y='282' font-size='12' fill='#6B6F76'>0 h</text><text x='900' y='282' "
            "font-size='12' fill='#6B6F76'>{:.1f} h</text>"
            "<text x='2' y='24' font-size='12' fill='#6B6F76'>{:.4g}</text><text x='2' y='250' "
            "font-size='12' fill='#6B6F76'>{:.4g}</text></svg>\n",
            upper, lower, path, x(toHours(e.span.start - run->start)),
            std::max(2.0, toHours(e.span.end - e.span.start) / length * 880), length, high, low);
        line(fmt::format("{}{}: the run from {} against the limits; outside for {}, peak {:+.3g}",
                         tag->path(), tag->unit.empty() ? "" : ", " + tag->unit, zone_.text(run->start),
                         sayDuration(e.outside), e.peak));
    }

    void excursions() {
        auto all = excursionsOf(study_);
        std::erase_if(all, [&](const KeptExcursion& e) { return !isListed(e.span.asset); });
        if (all.empty()) return;
        std::stable_sort(all.begin(), all.end(),
                         [](const auto& a, const auto& b) { return a.severity > b.severity; });
        const auto dismissed =
            std::count_if(all.begin(), all.end(), [](const auto& e) { return !e.dismissed.empty(); });
        title(dismissed > 0 ? fmt::format("Excursions ({}, of which {} dismissed)", all.size(), dismissed)
                            : fmt::format("Excursions ({})", all.size()));
        header({"severity", "tag", "start", "length", "peak", "area", "dismissed"});
        for (std::size_t i = 0; i < all.size() && i < 40; ++i) {
            const Tag* tag = study_.catalog().tag(all[i].span.tag);
            row({std::to_string(all[i].severity), tag ? tag->path() : "", zone_.text(all[i].span.start),
                 sayDuration(all[i].outside), fmt::format("{:+.3g} {}", all[i].peak, tag ? tag->unit : ""),
                 areaText(all[i].area, tag ? tag->unit : ""), all[i].dismissed});
        }
        out_ += "</table>\n";
        if (all.size() > 40) line(fmt::format("and {} more", all.size() - 40));
    }

    void fixes() {
        auto all = study_.judgement().allFixes();
        std::erase_if(all, [&](const Fix& f) { return !isListed(assetOf(f.tag)); });
        if (all.empty()) return;
        title("Fixes");
        header({"on", "fix", "tag", "from", "to", "amount", "why", "by"});
        for (const Fix& f : all) {
            const Tag* tag = study_.catalog().tag(f.tag);
            row({f.on ? "on" : "off", fixKindName(f.kind()), tag ? tag->path() : "", zone_.text(f.from),
                 zone_.text(f.to), fixAmount(study_, f), f.why, f.who});
        }
        out_ += "</table>\n";
    }

    void labels() {
        auto all = study_.tracks().spansOf(track_kind::kLabels);
        std::erase_if(all, [&](const Span& s) { return !isListed(s.asset); });
        if (all.empty()) return;
        title("Labels");
        header({"asset", "start", "length", "kind", "note", "by"});
        for (const Span& s : all)
            row({assetName(s.asset), zone_.text(s.start), sayDuration(s.end - s.start),
                 factText(s.facts, "kind"), factText(s.facts, "note"), factText(s.facts, "by")});
        out_ += "</table>\n";
    }

    /// Everything that says what was proved and under which terms: without it nobody can repeat it.
    void terms(const Rule& rule) {
        out_ += "<p><code>" + escaped(rule.text) + "</code></p>\n";
        out_ += "<table>\n";
        const auto term = [&](const char* name, const std::string& value) {
            if (!value.empty()) row({name, value});
        };
        std::vector<std::string> settings;
        for (const auto& [name, value] : rule.settings)
            settings.push_back(fmt::format("{} = {:.6g}", name, value));
        term("Settings", fmt::format("{}", fmt::join(settings, ", ")));
        term("Version", fmt::format("{}, kept {}{}", rule.version, zone_.text(rule.made),
                                    rule.who.empty() ? "" : " by " + rule.who));
        term("Detection window", fmt::format("an alarm counts from {} to {} before a failure",
                                             sayDuration(rule.spec.most), sayDuration(rule.spec.least)));
        term("Alarms merged within", sayDuration(rule.spec.join));
        if (rule.spec.offDelay > Duration::zero()) term("Off-delay", sayDuration(rule.spec.offDelay));
        term("Failures", rule.failures.empty() ? "all that are recorded" : rule.failures);
        term("Excluded time",
             rule.masks.empty() ? "recorded stops" : fmt::format("{}", fmt::join(rule.masks, "; ")));
        term("Severity", fmt::format("{} of {}", rule.severity, kMostSeverity));
        term("Meaning", rule.meaning);
        term("Advice", rule.advice);
        term("Reason for this version", rule.note);
        term("Search", rule.searched);
        out_ += "</table>\n";
    }

    void proof(const Rule& rule) {
        title("Rule " + rule.name);
        terms(rule);
        const auto p = proveRule(study_, requestOf(rule));
        if (!p) return line(p.error().message);
        if (const auto kept = lastProof(study_, rule.id))
            for (const std::string& change : outOfDate(study_, rule, *kept))
                line(fmt::format("Changed since the proof of {}: {}", zone_.text(kept->made), change));
        line(fmt::format("{}; {} of {} alarms came true; {:.2g} false alarms per asset-month", caughtText(*p),
                         p->cameTrue, p->cameTrue + p->falseAlarms, p->falsePerAssetMonth));
        if (!grouping_.fact.empty()) alarmsByGroup(*p);
        header({"failure", "time", "verdict", "warning"});
        for (const FailureVerdict& f : p->failures)
            if (isListed(f.asset))
                row({assetName(f.asset), zone_.text(f.time),
                     !f.testable ? "untestable: " + f.reason
                     : f.caught  ? "caught"
                                 : "missed",
                     f.caught ? warningWords(f.warning, rule.spec.most) : ""});
        out_ += "</table>\n";
        header({"alarm", "start", "length", "verdict"});
        for (const AlarmVerdict& a : p->alarms)
            if (isListed(a.asset))
                row({assetName(a.asset), zone_.text(a.range.from), sayDuration(a.range.length()),
                     verdictName(a.verdict)});
        out_ += "</table>\n";
    }

    void alarmsByGroup(const Proof& p) {
        header({"group", "came true", "false", "false per asset-month", "near misses"});
        for (const AlarmShare& s : breakDown(study_, p, BreakdownBy::Group, grouping_.fact))
            row({s.name, std::to_string(s.cameTrue), std::to_string(s.falseAlarms),
                 fmt::format("{:.2g}", s.falsePerAssetMonth()), std::to_string(s.nearMisses)});
        out_ += "</table>\n";
    }

    Study& study_;
    Zone zone_;
    const Progress& progress_;
    Grouping grouping_;
    std::string out_;
};

}  // namespace

Result<std::string> reportHtml(Study& study, const Progress& progress, const Grouping& grouping) {
    return Report(study, progress, grouping).make();
}

std::string caughtText(const Proof& p) {
    std::string out = fmt::format("{} of {} testable failures caught{}", p.caught, p.caught + p.missed,
                                  rangeText(p.catchRate));
    if (p.untestable > 0)
        out +=
            fmt::format("; {} OF {} RECORDED FAILURES COULD NOT BE TESTED", p.untestable, p.failures.size());
    return out;
}

std::string proofText(const Study& study, const Proof& p, Duration most) {
    const Zone zone = study.zone();
    std::string out;
    const auto name = [&](AssetId id) {
        const Asset* asset = study.catalog().asset(id);
        return asset ? asset->name : std::string("(no asset)");
    };
    for (const FailureVerdict& f : p.failures)
        out += fmt::format("{:<10} {:<18} {}\n", name(f.asset), zone.text(f.time),
                           !f.testable ? "untestable: " + f.reason
                           : f.caught  ? "caught, " + warningWords(f.warning, most) + " before"
                                       : "missed");
    for (const AlarmVerdict& a : p.alarms)
        if (a.verdict == Verdict::False)
            out += fmt::format("{:<10} {:<18} false alarm, {}\n", name(a.asset), zone.text(a.range.from),
                               sayDuration(a.range.length()));
    out += caughtText(p) + "\n";
    out += fmt::format("{} of {} alarms came true{}; {} late, {} open, {} masked\n", p.cameTrue,
                       p.cameTrue + p.falseAlarms, rangeText(p.cameTrueShare), p.late, p.open, p.masked);
    out +=
        fmt::format("median warning {}; {:.2f} false alarms per asset-month in {:.1f} asset-months\n",
                    std::isfinite(p.medianWarningHours) ? fmt::format("{:.0f} h", p.medianWarningHours) : "–",
                    p.falsePerAssetMonth, toHours(p.countingTime) / 730.5);
    return out;
}

}  // namespace jacinth
