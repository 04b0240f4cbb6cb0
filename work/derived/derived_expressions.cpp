#include "work/derived/derived_expressions.h"

#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "core/expr/evaluate.h"
#include "store/derived_catalog.h"
#include "store/json_body.h"
#include "store/judgement.h"
#include "store/sample_store.h"
#include "store/tracks.h"
#include "work/base/study_inputs.h"
#include "work/derived/derived_web.h"

namespace jacinth {
namespace {

using nlohmann::json;

/// What the samples are like, estimated from the expression over its last hour.
struct Shape {
    TagKind kind = TagKind::Continuous;
    std::vector<std::string> states;
    Duration spacing = kHour, longestGap = kHour;
};

Result<Shape> shapeOf(Study& study, const Asset& asset, const Expression& expression) {
    Shape out;
    if (expression.type == ValueType::Text)
        return Error{"this gives a text; a derived tag holds numbers, a condition or states"};
    const ExpressionReach reach = reachOf(study, expression, asset.id);
    out.spacing = reach.spacing;
    out.longestGap = reach.longestGap;
    if (expression.type == ValueType::Condition) {
        out.kind = TagKind::State;
        out.states = {"false", "true"};
        return out;
    }
    // The kind of a value follows from that of its tags: no look-back is read for it.
    const TimeRange end{std::max(reach.range.from, reach.range.to - kHour), reach.range.to};
    StudyInputs inputs(study, asset.id, end, {}, Which::Mended);
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
    TagId known;  ///< none where it is made new
};

Result<Plan> planFor(Study& study, const DerivedSpec& spec, const Asset& asset,
                     const Expression& expression) {
    Plan plan{spec, asset, expression, {}, {}};
    if (expression.roles.empty() && expression.paths.empty() && tracksOf(study, expression).empty())
        return Error{"the expression names no tag and no track, so it has no time"};
    if (const auto known = study.catalog().tagAt(asset.name + "/" + spec.name)) {
        const json made = study.derived().definition(known->id);
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
    std::map<TagId, std::string> changed;
    for (const Plan& p : plans)
        if (p.known) changed[p.known] = p.spec.text;
    StudyMarks marks(study);
    DerivedWeb web(study, marks, changed);
    for (const auto& [id, ignored] : changed)
        if (const auto way = web.wayRound(id); !way.empty())
            return Error{
                fmt::format("`{}` would be made from itself: {}", study.catalog().tag(id)->path(), way)};
    return Done{};
}

TagId putTag(Study& study, const Plan& plan) {
    Catalog& catalog = study.catalog();
    const DerivedSpec& spec = plan.spec;
    const TagId id =
        plan.known ? plan.known : catalog.addTag(plan.asset.id, spec.name, spec.unit, plan.shape.kind);
    Tag tag = *catalog.tag(id);
    tag.unit = spec.unit.empty() ? plan.expression.unit : spec.unit;
    tag.kind = plan.shape.kind;
    tag.longestGap = plan.shape.longestGap;
    catalog.updateTag(tag);
    catalog.setSpacing(id, plan.shape.spacing);
    if (tag.states != plan.shape.states) catalog.setStates(id, plan.shape.states);
    study.derived().putDefinition(id, {{kExpression, spec.text}});
    return id;
}

}  // namespace

std::string derivedText(const Study& study, TagId tag) {
    const json made = study.derived().definition(tag);
    return made.is_object() ? JsonBody(made).text(kExpression) : "";
}

Result<std::vector<TagId>> defineDerived(Study& study, const DerivedSpec& spec) {
    return defineDerived(study, std::vector{spec},
                         "derived tag " + (spec.asset.empty() ? spec.name : spec.asset + "/" + spec.name));
}

Result<std::vector<TagId>> defineDerived(Study& study, const std::vector<DerivedSpec>& specs,
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
    std::vector<TagId> ids, emptied;
    for (const Plan& p : plans)
        if (p.known && derivedText(study, p.known) != p.spec.text) emptied.push_back(p.known);
    study.changeDerived(stepName, "", detail, emptied, [&] {
        for (const Plan& plan : plans) ids.push_back(putTag(study, plan));
    });
    return ids;
}

Result<std::vector<TagId>> keepLimitTags(Study& study, const std::string& set, const std::string& role) {
    const auto newest = study.judgement().limitSetNamed(set);
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

Status removeDerived(Study& study, TagId id) {
    const Tag* found = study.catalog().tag(id);
    const json made = study.derived().definition(id);
    if (!found || made.is_null()) return Error{"only derived tags can be removed"};
    const Tag tag = *found;
    for (const DerivedExpression& other : derivedExpressions(study))
        if (other.tag.id != id &&
            std::find(other.madeFrom.begin(), other.madeFrom.end(), id) != other.madeFrom.end())
            return Error{fmt::format("`{}` is made from `{}`", other.tag.path(), tag.path())};
    if (const auto spans = study.tracks().spansAbout(id))
        return Error{fmt::format("{} of `{}` {} about `{}`", spans->second, spans->first,
                                 spans->second == 1 ? "is" : "are", tag.path())};
    const std::string name = "remove " + tag.path();
    if (made.contains(kExpression))
        study.changeDerived(name, "", made, {id}, [&] { study.derived().removeTag(id); });
    else
        study.changeWithSamples(name, "", made, [&] {
            study.samples().clear(id);
            study.derived().removeTag(id);
        });
    return Done{};
}

std::vector<DerivedExpression> derivedExpressions(const Study& study) {
    std::vector<TagId> all;
    for (const TagId id : study.derived().tags())
        if (!derivedText(study, id).empty() && study.catalog().tag(id)) all.push_back(id);
    StudyMarks marks(study);
    DerivedWeb web(study, marks);
    std::vector<DerivedExpression> out;
    for (const TagId id : web.inOrder(all)) {
        const DerivedState state = study.derived().state(id);
        DerivedExpression d{*study.catalog().tag(id), web.textOf(id), web.inputsOf(id), state.at,
                            state.trouble};
        d.stale = state.madeFrom != marks.madeFrom(d.tag, d.text);
        out.push_back(std::move(d));
    }
    return out;
}

}  // namespace jacinth
