#include "work/derived_expressions.h"

#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "core/expr/pieces.h"
#include "core/expr/sampled.h"
#include "store/wall_time.h"
#include "work/derived_inputs.h"
#include "work/study_inputs.h"
#include "work/study_pool.h"

namespace jacinth {
namespace {

using nlohmann::json;

constexpr std::size_t kSamplesAtOnce = 1 << 20;  // in memory before they are written

/// Follows what each tag is made of. `changed` stands for the texts of tags that are about to change.
class Web {
  public:
    Web(const Study& study, StudyMarks& marks, std::map<std::int64_t, std::string> changed = {})
        : study_(study), marks_(marks), changed_(std::move(changed)) {}

    std::string textOf(std::int64_t tag) const {
        const auto known = changed_.find(tag);
        return known != changed_.end() ? known->second : derivedText(study_, tag);
    }
    const std::vector<std::int64_t>& inputsOf(std::int64_t tag) {
        const auto known = inputs_.find(tag);
        if (known != inputs_.end()) return known->second;
        std::vector<std::int64_t> out;
        const std::string text = textOf(tag);
        const Tag* t = study_.catalog().tag(tag);
        if (!text.empty() && t)
            if (const auto expression = compileExpression(text, marks_.names(t->asset)))
                out = tagsOf(study_, *expression, t->asset);
        return inputs_[tag] = std::move(out);
    }
    /// The way from a tag back to itself; empty where there is none.
    std::vector<std::int64_t> wayRound(std::int64_t tag) {
        std::set<std::int64_t> seen;
        std::vector<std::int64_t> way{tag};
        return follow(tag, tag, seen, way) ? way : std::vector<std::int64_t>{};
    }

  private:
    bool follow(std::int64_t from, std::int64_t wanted, std::set<std::int64_t>& seen,
                std::vector<std::int64_t>& way) {
        for (const std::int64_t input : inputsOf(from)) {
            way.push_back(input);
            if (input == wanted) return true;
            if (seen.insert(input).second && follow(input, wanted, seen, way)) return true;
            way.pop_back();
        }
        return false;
    }
    const Study& study_;
    StudyMarks& marks_;
    std::map<std::int64_t, std::string> changed_;
    std::map<std::int64_t, std::vector<std::int64_t>> inputs_;
};

std::string wayText(const Study& study, const std::vector<std::int64_t>& way) {
    std::string out;
    for (const std::int64_t id : way)
        out += (out.empty() ? "`" : " → `") + study.catalog().tag(id)->path() + "`";
    return out;
}

/// What the samples are like, told from the expression over its last hour.
struct Shape {
    TagKind kind = TagKind::Continuous;
    std::vector<std::string> states;
    Duration spacing = kHour, longestGap = kHour;
};

Result<Shape> shapeOf(Study& study, const Asset& asset, const Expression& expression) {
    Shape out;
    if (expression.type == ValueType::Text)
        return Error{"this gives a text; a derived tag holds numbers, a condition or states"};
    const DerivedReach reach = reachOf(study, expression, asset.id);
    out.spacing = reach.spacing;
    out.longestGap = reach.longestGap;
    if (expression.type == ValueType::Condition) {
        out.kind = TagKind::State;
        out.states = {"false", "true"};
        return out;
    }
    const TimeRange end{std::max(reach.range.from, reach.range.to - kHour), reach.range.to};
    StudyInputs inputs(study, asset.id, end, expression.lookBack >= kAllBefore ? 0 : expression.lookBack,
                       Which::Mended);
    const auto value = evaluate(expression, inputs, end);
    if (!value) return value.error();
    const Signal& signal = std::get<Signal>(*value);
    if (signal.stepped) out.kind = TagKind::Stepped;
    if (expression.type == ValueType::State) {
        out.kind = TagKind::State;
        out.states = signal.states;
    }
    return out;
}

/// One tag to be made or changed.
struct Plan {
    DerivedSpec spec;
    Asset asset;
    Expression expression;
    Shape shape;
    std::int64_t known = 0;
};

Result<Plan> planFor(Study& study, const DerivedSpec& spec, const Asset& asset,
                     const Expression& expression) {
    Plan plan{spec, asset, expression, {}, 0};
    if (expression.roles.empty() && expression.paths.empty() && tracksOf(study, expression).empty())
        return Error{"the expression names no tag and no track, so it has no time"};
    if (const auto known = study.catalog().tagAt(asset.name + "/" + spec.name)) {
        const json made = study.derivedDefinition(known->id);
        if (!made.contains(kExpression))
            return Error{fmt::format("`{}` is a {} tag; choose another name", known->path(),
                                     made.is_null() ? "logged" : "kept")};
        plan.known = known->id;
    } else if (const Tag* other = study.catalog().tagInRole(asset.id, roleFromName(spec.name))) {
        return Error{
            fmt::format("`{}` has the role `{}` already; choose another name", other->path(), other->role)};
    }
    auto shape = shapeOf(study, asset, expression);
    if (!shape) return shape.error();
    plan.shape = std::move(*shape);
    return plan;
}

Status refuseWayRound(const Study& study, const std::vector<Plan>& plans) {
    std::map<std::int64_t, std::string> changed;
    for (const Plan& p : plans)
        if (p.known) changed[p.known] = p.spec.text;
    StudyMarks marks(study);
    Web web(study, marks, changed);
    for (const auto& [id, ignored] : changed)
        if (const auto way = web.wayRound(id); !way.empty())
            return Error{fmt::format("`{}` would be made from itself: {}", study.catalog().tag(id)->path(),
                                     wayText(study, way))};
    return Done{};
}

std::int64_t putTag(Study& study, const Plan& plan) {
    Catalog& catalog = study.catalog();
    const DerivedSpec& spec = plan.spec;
    const std::int64_t id =
        plan.known ? plan.known : catalog.addTag(plan.asset.id, spec.name, spec.unit, plan.shape.kind);
    Tag tag = *catalog.tag(id);
    tag.unit = spec.unit.empty() ? plan.expression.unit : spec.unit;
    tag.kind = plan.shape.kind;
    tag.longestGap = plan.shape.longestGap;
    catalog.updateTag(tag);
    catalog.setSpacing(id, plan.shape.spacing);
    if (tag.states != plan.shape.states) {
        Statement(study.database(), "DELETE FROM state WHERE tag = ?").bind(id).run();
        catalog.reload();
        for (const std::string& name : plan.shape.states) catalog.addState(id, name);
    }
    study.putDerivedDefinition(id, {{kExpression, spec.text}});
    return id;
}

/// Writes what a sampler has, in transactions of its own; the first drops what there was.
class Writer {
  public:
    Writer(Study& study, std::int64_t tag) : study_(study), tag_(tag) {}
    void flush(Series samples) {
        Transaction transaction(study_.database());
        begin();
        study_.samples().write(tag_, std::move(samples));
        transaction.commit();
    }
    void finish(Series samples, const DerivedState& state) {
        Transaction transaction(study_.database());
        begin();
        if (!samples.empty()) study_.samples().write(tag_, std::move(samples));
        study_.setDerivedState(tag_, state);
        study_.samples().gatherIndex(tag_);
        transaction.commit();
    }

  private:
    void begin() {
        if (begun_) return;
        study_.dropDerivedSamples(tag_);
        study_.setDerivedState(tag_, {});
        begun_ = true;
    }
    Study& study_;
    std::int64_t tag_;
    bool begun_ = false;
};

Status workOut(Study& study, const Tag& tag, const Expression& expression, const DerivedState& state,
               const std::function<bool(double)>& goOn) {
    const DerivedReach reach = reachOf(study, expression, tag.asset);
    StudyPool pool(study.path());
    Sampler sampler(tag.longestGap.value_or(kHour));
    Writer writer(study, tag.id);
    const Status done = evaluateInPieces(
        expression, reach.range, piecesFor(expression, reach.spacing, reach.margin),
        [&](TimeRange wanted) { return pool.inputs(tag.asset, wanted); },
        [&](TimeRange part, const Value& value) {
            sampler.add(part, value);
            if (sampler.size() >= kSamplesAtOnce) writer.flush(sampler.take());
        },
        2, goOn);
    if (!done) return done;
    sampler.finish(reach.range.to);
    writer.finish(sampler.take(), state);
    return Done{};
}

/// In an order in which each comes after those it is made from; tags that are made from themselves come last.
std::vector<std::int64_t> inOrder(const std::vector<std::int64_t>& all, Web& web) {
    std::vector<std::int64_t> out;
    std::set<std::int64_t> seen;
    const std::function<void(std::int64_t)> visit = [&](std::int64_t tag) {
        if (!seen.insert(tag).second) return;
        for (const std::int64_t input : web.inputsOf(tag)) visit(input);
        if (std::find(all.begin(), all.end(), tag) != all.end()) out.push_back(tag);
    };
    for (const std::int64_t tag : all) visit(tag);
    return out;
}

}  // namespace

std::string derivedText(const Study& study, std::int64_t tag) {
    const json made = study.derivedDefinition(tag);
    return made.is_object() ? made.value(kExpression, "") : "";
}

Result<std::vector<std::int64_t>> defineDerived(Study& study, const DerivedSpec& spec) {
    return defineDerived(study, std::vector{spec},
                         "derived tag " + (spec.asset.empty() ? spec.name : spec.asset + "/" + spec.name));
}

Result<std::vector<std::int64_t>> defineDerived(Study& study, const std::vector<DerivedSpec>& specs,
                                                const std::string& stepName) {
    std::vector<Plan> plans;
    nlohmann::json detail = nlohmann::json::array();
    for (const DerivedSpec& spec : specs) {
        if (spec.name.empty()) return Error{"a derived tag needs a name"};
        if (spec.name.find_first_of("/`") != std::string::npos)
            return Error{"a tag's name holds neither / nor `"};
        const auto fleet = compileForFleet(study, spec.text, spec.asset);
        if (!fleet) return fleet.error();
        for (const auto& [asset, expression] : fleet->byAsset) {
            auto plan = planFor(study, spec, asset, expression);
            if (!plan) return plan.error();
            detail.push_back({{"tag", asset.name + "/" + spec.name}, {kExpression, spec.text}});
            plans.push_back(std::move(*plan));
        }
    }
    if (const Status fine = refuseWayRound(study, plans); !fine) return fine.error();
    std::vector<std::int64_t> ids, emptied;
    for (const Plan& p : plans)
        if (p.known && derivedText(study, p.known) != p.spec.text) emptied.push_back(p.known);
    study.changeDerived(stepName, "", detail, emptied, [&] {
        for (const Plan& plan : plans) ids.push_back(putTag(study, plan));
    });
    return ids;
}

Result<std::vector<std::int64_t>> keepLimitTags(Study& study, const std::string& set,
                                                const std::string& role) {
    const auto newest = study.limitSetNamed(set);
    if (!newest || !newest->byRole.contains(role))
        return Error{fmt::format("`{}` has no limits in `{}`", role, set)};
    std::vector<DerivedSpec> specs;
    for (const Asset& asset : study.catalog().assets())
        if (const Tag* tag = study.catalog().tagInRole(asset.id, role))
            for (const char* side : {"low", "high"})
                specs.push_back({tag->name + " " + side, tag->unit,
                                 fmt::format("{}(\"{}\", @{})", side, set, role), asset.name});
    return defineDerived(study, specs, fmt::format("limits of {} as tags", role));
}

Status removeDerived(Study& study, std::int64_t id) {
    const Tag* found = study.catalog().tag(id);
    const json made = study.derivedDefinition(id);
    if (!found || made.is_null()) return Error{"only derived tags can be taken away"};
    const Tag tag = *found;
    for (const DerivedExpression& other : derivedExpressions(study))
        if (other.tag.id != id &&
            std::find(other.madeFrom.begin(), other.madeFrom.end(), id) != other.madeFrom.end())
            return Error{fmt::format("`{}` is made from `{}`", other.tag.path(), tag.path())};
    Statement spans(
        study.database(),
        "SELECT track.name, count(*) FROM span JOIN track ON track.id = track WHERE tag = ? GROUP BY "
        "track.id LIMIT 1");
    if (spans.bind(id).step())
        return Error{fmt::format("{} of `{}` {} about `{}`", spans.integer(1), spans.text(0),
                                 spans.integer(1) == 1 ? "is" : "are", tag.path())};
    spans.reset();
    const std::string name = "take away " + tag.path();
    if (made.contains(kExpression))
        study.changeDerived(name, "", made, {id}, [&] { study.removeDerivedTag(id); });
    else
        study.changeWithSamples(name, "", made, [&] {
            study.samples().clear(id);
            study.removeDerivedTag(id);
        });
    return Done{};
}

std::vector<DerivedExpression> derivedExpressions(const Study& study) {
    std::vector<std::int64_t> all;
    for (const std::int64_t id : study.derivedTags())
        if (!derivedText(study, id).empty() && study.catalog().tag(id)) all.push_back(id);
    StudyMarks marks(study);
    Web web(study, marks);
    std::vector<DerivedExpression> out;
    for (const std::int64_t id : inOrder(all, web)) {
        const DerivedState state = study.derivedState(id);
        DerivedExpression d{*study.catalog().tag(id), web.textOf(id), web.inputsOf(id), state.at,
                            state.trouble};
        d.stale = state.madeFrom != marks.madeFrom(d.tag, d.text);
        out.push_back(std::move(d));
    }
    return out;
}

Result<DerivedRefresh> refreshDerived(Study& study,
                                      const std::function<bool(const std::string&, double)>& goOn) {
    DerivedRefresh out;
    const std::vector<DerivedExpression> all = derivedExpressions(study);
    const auto stale = static_cast<double>(
        std::count_if(all.begin(), all.end(), [](const DerivedExpression& d) { return d.stale; }));
    StudyMarks marks(study);
    Web web(study, marks);
    double done = 0;
    for (const DerivedExpression& d : all) {
        DerivedState state{marks.madeFrom(d.tag, d.text), timeNow(), ""};
        if (!d.stale) continue;
        bool stopped = false;
        const auto share = [&](double s) {
            stopped |= goOn && !goOn(d.tag.path(), (done + s) / stale);
            return !stopped;
        };
        if (!share(0)) return Error{"stopped"};
        const auto expression = compileExpression(d.text, marks.names(d.tag.asset));
        if (const auto way = web.wayRound(d.tag.id); !way.empty())
            state.trouble = "it is made from itself: " + wayText(study, way);
        else if (!expression)
            state.trouble = expression.error().message;
        else if (const Status worked = workOut(study, d.tag, *expression, state, share); !worked) {
            if (stopped) return worked.error();
            state.trouble = worked.error().message;
        }
        if (state.trouble.empty()) {
            out.made.push_back(d.tag.path());
        } else {
            Writer(study, d.tag.id).finish({}, state);
            out.trouble.push_back(d.tag.path() + ": " + state.trouble);
        }
        ++done;
    }
    return out;
}

}  // namespace jacinth
