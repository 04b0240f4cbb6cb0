#include "core/expr/check.h"

#include <fmt/format.h>

#include <algorithm>

#include "core/base/role_name.h"
#include "core/base/text.h"
#include "core/expr/functions.h"
#include "core/expr/look_back.h"

namespace jacinth {
namespace {

struct CheckError {
    Error error;
};

/// The unit of a value: not known, plain (a number written down, or a quotient of likes), or a unit.
struct Unit {
    bool known = false;
    std::string name;
    static Unit plain() { return {true, {}}; }
    static Unit of(const std::string& unit) { return {!unit.empty(), unit}; }
    bool isUnit() const { return known && !name.empty(); }
};

struct Kind {
    ValueType type = ValueType::Number;
    Unit unit;
};

bool isMeasure(ValueType t) {
    return t == ValueType::Number || t == ValueType::DurationValue;
}

template <typename Map>
std::vector<std::string> keys(const Map& map) {
    std::vector<std::string> out;
    for (const auto& [key, value] : map) out.push_back(key);
    return out;
}

class Checker {
  public:
    Checker(const Names& names, Expression& out) : names_(names), out_(out) {}

    Kind check(const Node& n, Duration reach) {
        out_.lookBack = std::max(out_.lookBack, reach);
        switch (n.kind) {
            case NodeKind::Number:
                return {ValueType::Number, Unit::plain()};
            case NodeKind::DurationLiteral:
                return {ValueType::DurationValue, {}};
            case NodeKind::Text:
                return {ValueType::Text, {}};
            case NodeKind::Role:
                return role(n.text, n.column, reach);
            case NodeKind::Path:
                return path(n, reach);
            case NodeKind::Name:
                return name(n, reach);
            case NodeKind::Negate:
                return measure(*n.children[0], reach);
            case NodeKind::Not:
            case NodeKind::And:
            case NodeKind::Or:
                for (const NodePtr& c : n.children) want(*c, check(*c, reach), ValueType::Condition);
                return {ValueType::Condition, {}};
            case NodeKind::Add:
            case NodeKind::Subtract:
                return sum(n, reach);
            case NodeKind::Multiply:
            case NodeKind::Divide:
                return product(n, reach);
            case NodeKind::Power:
                for (const NodePtr& c : n.children) want(*c, check(*c, reach), ValueType::Number);
                return {ValueType::Number, {}};
            case NodeKind::Less:
            case NodeKind::LessEqual:
            case NodeKind::Greater:
            case NodeKind::GreaterEqual:
            case NodeKind::Equal:
            case NodeKind::NotEqual:
            case NodeKind::Between:
                return compare(n, reach);
            case NodeKind::Is:
            case NodeKind::In:
                return isState(n, reach);
            case NodeKind::For:
                want(*n.children[0], check(*n.children[0], further(reach, n.duration, n.column)),
                     ValueType::Condition);
                return {ValueType::Condition, {}};
            case NodeKind::Call:
                return call(n, reach);
        }
        return {};
    }

  private:
    [[noreturn]] static void fail(int column, const std::string& what) {
        throw CheckError{{fmt::format("column {}: {}", column, what), column}};
    }
    static void want(const Node& n, const Kind& found, ValueType wanted) {
        if (found.type != wanted)
            fail(n.column,
                 fmt::format("this is a {}; a {} would fit", typeName(found.type), typeName(wanted)));
    }
    Kind measure(const Node& n, Duration reach) {
        const Kind found = check(n, reach);
        if (!isMeasure(found.type)) want(n, found, ValueType::Number);
        return found;
    }
    static Duration further(Duration reach, Duration by, int column) {
        if (by > kAllBefore) fail(column, "this is longer than a hundred years");
        return std::min(kAllBefore, reach + by);
    }
    void warn(int column, const Unit& a, const Unit& b) {
        if (a.isUnit() && b.isUnit() && a.name != b.name)
            out_.warnings.push_back(
                {fmt::format("column {}: {} against {}; are these alike?", column, a.name, b.name), column});
    }
    static Unit eitherUnit(const Unit& a, const Unit& b) {
        if (a.isUnit()) return a;
        if (b.isUnit()) return b;
        return a.known && b.known ? a : Unit{};
    }

    Kind leaf(const TagInfo& tag, Duration reach) {
        const Duration gap = std::min<Duration>(tag.longestGap, 30 * kDay);
        out_.lookBack = std::max(out_.lookBack, std::min(kAllBefore, reach + windows_ * gap));
        return {tag.kind == TagKind::State ? ValueType::State : ValueType::Number, Unit::of(tag.unit)};
    }

    std::string insteadOf(const std::string& role) const {
        const auto elsewhere = names_.rolesElsewhere.find(role);
        if (elsewhere == names_.rolesElsewhere.end()) return sayNearest(role, keys(names_.roles));
        return fmt::format("; `{}` by its path can be named on any asset", elsewhere->second);
    }

    /// By its name, or by a name of earlier versions, like `bed_δp`.
    auto roleNamed(const std::string& text) const {
        const auto found = names_.roles.find(text);
        return found != names_.roles.end() ? found : names_.roles.find(roleFromName(text));
    }

    Kind role(const std::string& text, int column, Duration reach) {
        const auto found = roleNamed(text);
        if (found == names_.roles.end())
            fail(column, fmt::format("`{}` is not a role of {}{}", text, names_.assetKind, insteadOf(text)));
        out_.roles.insert(found->first);
        return leaf(found->second, reach);
    }

    Kind path(const Node& n, Duration reach) {
        const auto found = names_.paths.find(n.text);
        if (found == names_.paths.end())
            fail(n.column,
                 fmt::format("`{}` is not a tag{}", n.text, sayNearest(n.text, keys(names_.paths.all()))));
        out_.paths.insert(n.text);
        return leaf(found->second, reach);
    }

    Kind name(const Node& n, Duration reach) {
        const auto found = names_.facts.find(n.text);
        if (found != names_.facts.end()) return {found->second, {}};
        if (names_.derived.contains(n.text)) return role(n.text, n.column, reach);
        std::vector<std::string> known = keys(names_.facts);
        known.insert(known.end(), names_.derived.begin(), names_.derived.end());
        for (const std::string& f : functionNames()) known.push_back(f);
        if (names_.roles.contains(n.text))
            fail(n.column, fmt::format("`{0}` is not known here; `@{0}` is the tag in that role", n.text));
        fail(n.column, fmt::format("`{}` is not known here{}", n.text, sayNearest(n.text, known)));
    }

    Kind sum(const Node& n, Duration reach) {
        const Kind a = measure(*n.children[0], reach), b = measure(*n.children[1], reach);
        if (a.type != b.type)
            fail(n.column, fmt::format("a {} and a {} cannot be added", typeName(a.type), typeName(b.type)));
        warn(n.column, a.unit, b.unit);
        return {a.type, eitherUnit(a.unit, b.unit)};
    }

    Kind product(const Node& n, Duration reach) {
        const Kind a = measure(*n.children[0], reach), b = measure(*n.children[1], reach);
        const bool lengthA = a.type == ValueType::DurationValue, lengthB = b.type == ValueType::DurationValue;
        const bool times = n.kind == NodeKind::Multiply;
        if (lengthA && lengthB) {
            if (times) fail(n.column, "a duration cannot be multiplied with a duration");
            return {ValueType::Number, Unit::plain()};
        }
        if (lengthB && !times) fail(n.column, "a number cannot be divided by a duration");
        if (lengthA || lengthB) return {ValueType::DurationValue, {}};
        if (!a.unit.known || !b.unit.known) return {ValueType::Number, {}};
        if (!b.unit.isUnit()) return a;
        if (times)
            return {ValueType::Number,
                    {true, a.unit.isUnit() ? a.unit.name + "·" + b.unit.name : b.unit.name}};
        if (a.unit.name == b.unit.name) return {ValueType::Number, Unit::plain()};
        return {ValueType::Number, {true, (a.unit.isUnit() ? a.unit.name : "1") + "/" + b.unit.name}};
    }

    Kind compare(const Node& n, Duration reach) {
        const Kind first = check(*n.children[0], reach);
        // Facts of a run may be texts; over time nothing is one.
        const bool texts = names_.aboutSpan && (n.kind == NodeKind::Equal || n.kind == NodeKind::NotEqual);
        if (first.type == ValueType::State)
            fail(n.column, "a state is compared with `is` or `in`, like `@burner_mode is \"Auto\"`");
        if (first.type == ValueType::Condition || (first.type == ValueType::Text && !texts))
            fail(n.children[0]->column,
                 fmt::format("this is a {}; a number would fit", typeName(first.type)));
        for (std::size_t i = 1; i < n.children.size(); ++i) {
            const Kind other = check(*n.children[i], reach);
            if (other.type != first.type)
                fail(n.children[i]->column, fmt::format("a {} cannot be compared with a {}",
                                                        typeName(first.type), typeName(other.type)));
            warn(n.column, first.unit, other.unit);
        }
        return {ValueType::Condition, {}};
    }

    /// The states a state expression may take.
    const std::vector<std::string>& statesOf(const Node& n) const {
        if (n.kind == NodeKind::Path) return names_.paths.at(n.text).states;
        if (n.kind == NodeKind::Role || n.kind == NodeKind::Name) return roleNamed(n.text)->second.states;
        if (n.kind == NodeKind::Call && n.function->is<implementation::ByState>()) return names_.trust;
        return statesOf(*n.children[0]);
    }

    /// The nearest state and a few more.
    static std::string someStates(const std::string& wanted, const std::vector<std::string>& known) {
        constexpr std::size_t kMost = 6;
        std::vector<std::string> out;
        if (const std::string near = nearestName(wanted, known); !near.empty()) out.push_back(near);
        for (const std::string& s : known)
            if (out.size() < kMost && std::find(out.begin(), out.end(), s) == out.end()) out.push_back(s);
        if (out.empty()) return "none";
        return fmt::format("{}{}", fmt::join(out, ", "), out.size() < known.size() ? ", …" : "");
    }

    static const Node& tagOf(const Node& n) { return n.kind == NodeKind::Call ? tagOf(*n.children[0]) : n; }

    Kind isState(const Node& n, Duration reach) {
        const Node& subject = *n.children[0];
        const Kind kind = check(subject, reach);
        if (kind.type == ValueType::Text && names_.aboutSpan) return {ValueType::Condition, {}};
        want(subject, kind, ValueType::State);
        const std::vector<std::string>& known = statesOf(subject);
        const bool fixedStates =
            subject.kind == NodeKind::Call && subject.function->is<implementation::ByState>();
        for (const std::string& s : n.states) {
            if (std::find(known.begin(), known.end(), s) != known.end()) continue;
            if (fixedStates)
                fail(n.column, fmt::format("`{}` is not a grade of trust{}", s, sayNearest(s, known)));
            // A rule for a rare state must be writable before the state occurs.
            out_.warnings.push_back(
                {fmt::format("column {}: `{}` has had no state `{}` so far; it has had {}", n.column,
                             tagOf(subject).text, s, someStates(s, known)),
                 n.column});
        }
        return {ValueType::Condition, {}};
    }

    Kind call(const Node& n, Duration reach) {
        const FunctionInfo* f = n.function;
        if (!f)
            fail(n.column,
                 fmt::format("`{}` is not a function{}", n.text, sayNearest(n.text, functionNames())));
        if (n.children.size() != f->takes.size())
            fail(n.column, fmt::format("`{}` takes {} argument{}, found {}", n.text, f->takes.size(),
                                       f->takes.size() == 1 ? "" : "s", n.children.size()));
        window(n, *f);
        const Duration inner = reachOf(n, reach);
        std::vector<Kind> kinds;
        const bool before = n.window.given() || f->reach == Reach::JustBefore;
        if (before) ++windows_;
        for (std::size_t i = 0; i < n.children.size(); ++i)
            kinds.push_back(argument(*n.children[i], f->takes[i], inner, n));
        if (before) --windows_;
        const std::size_t value = valueArgument(*f);
        for (std::size_t i = value + 1; i < kinds.size(); ++i) {
            if (f->takes[i] != Takes::Measure) continue;
            if (kinds[i].type != kinds[value].type)
                fail(n.children[i]->column,
                     fmt::format("a {} and a {} do not go together here", typeName(kinds[value].type),
                                 typeName(kinds[i].type)));
            warn(n.children[i]->column, kinds[value].unit, kinds[i].unit);
        }
        return resultOf(*f, kinds, value);
    }

    static Kind resultOf(const FunctionInfo& f, const std::vector<Kind>& kinds, std::size_t value) {
        Kind out;
        switch (f.gives) {
            case Gives::Number:
                break;
            case Gives::Length:
                out.type = ValueType::DurationValue;
                break;
            case Gives::Condition:
                out.type = ValueType::Condition;
                break;
            case Gives::State:
                out.type = ValueType::State;
                break;
            case Gives::SameAsValue:
                out.type = kinds[value].type;
                break;
        }
        Unit unit = kinds[value].unit;
        for (std::size_t i = value + 1; i < kinds.size(); ++i) unit = eitherUnit(unit, kinds[i].unit);
        if (kinds[value].type == ValueType::DurationValue) unit = Unit::of("s");
        if (f.unit == UnitRule::Same) out.unit = unit;
        if (f.unit == UnitRule::PerHour && unit.isUnit()) out.unit = Unit::of(unit.name + "/h");
        if (f.unit == UnitRule::TimesHour && unit.isUnit()) out.unit = Unit::of(unit.name + "·h");
        if (out.type != ValueType::Number) out.unit = {};
        return out;
    }

    /// Is the window one that the function can look over?
    void window(const Node& n, const FunctionInfo& f) {
        const Window& w = n.window;
        const auto needs = [&](const char* what) { fail(n.column, fmt::format("`{}` {}", n.text, what)); };
        if (f.looks == Looks::Nowhere) {
            if (w.given()) needs("takes no `over`");
            return;
        }
        if (!w.given()) {
            // About a span, an aggregate without `over` is over the whole span.
            if (names_.aboutSpan && f.looks == Looks::Back) return;
            needs("looks back over a time; add `over` and a duration, like `over 6h`");
        }
        if (f.looks == Looks::BackByTime && w.duration == Duration::zero())
            needs("takes `over` and a duration, like `over 6h`");
        for (const std::string* track : {&w.since, &w.during}) {
            if (track->empty()) continue;
            if (f.looks != Looks::Back) needs("takes `over` and a duration, like `over 6h`");
            wantTrack(*track, w.column);
        }
        if (w.samples > 0 && n.children[0]->kind == NodeKind::Text)
            needs("of a track takes `over` and a duration, like `over 4w`");
    }

    void wantTrack(const std::string& name, int column) const {
        if (std::find(names_.tracks.begin(), names_.tracks.end(), name) == names_.tracks.end())
            fail(column,
                 fmt::format("`{}` is not a track of this study{}", name, sayNearest(name, names_.tracks)));
    }

    static Duration reachOf(const Node& n, Duration reach) {
        const Window& w = n.window;
        if (n.function->reach == Reach::Delay && n.children[1]->kind == NodeKind::DurationLiteral)
            return further(reach, n.children[1]->duration, n.children[1]->column);
        further({}, w.duration, w.column);
        return std::min(kAllBefore, reach + ownLookBack(n));
    }

    Kind argument(const Node& a, Takes takes, Duration reach, const Node& call) {
        switch (takes) {
            case Takes::Number: {
                const Kind k = check(a, reach);
                want(a, k, ValueType::Number);
                return k;
            }
            case Takes::Measure:
                return measure(a, reach);
            case Takes::Condition: {
                const Kind k = check(a, reach);
                want(a, k, ValueType::Condition);
                return k;
            }
            case Takes::Anything: {
                const Kind k = check(a, reach);
                if (k.type == ValueType::Text) want(a, k, ValueType::Number);
                return k;
            }
            case Takes::Length:
                if (a.kind != NodeKind::DurationLiteral)
                    fail(a.column, fmt::format("`{}` takes a duration here, like `2h`", call.text));
                return {ValueType::DurationValue, {}};
            case Takes::Level:
                if (a.kind != NodeKind::Number || a.number < 0 || a.number > 1)
                    fail(a.column,
                         fmt::format("`{}` takes a number from 0 to 1 here, like `0.95`", call.text));
                return {ValueType::Number, Unit::plain()};
            case Takes::Counted:
                if (a.kind != NodeKind::Text) return measure(a, reach);
                wantTrack(a.text, a.column);
                return {ValueType::Text, {}};
            case Takes::Track:
                wantText(a, "track", "\"Stops\"");
                wantTrack(a.text, a.column);
                return {ValueType::Text, {}};
            case Takes::Limits:
                return limits(a, call);
            case Takes::Tag:
                if (a.kind != NodeKind::Role && a.kind != NodeKind::Path && a.kind != NodeKind::Name)
                    fail(a.column, fmt::format("`{}` takes a tag here, like `@role`", call.text));
                return check(a, reach);
        }
        return {};
    }

    static void wantText(const Node& a, const char* what, const char* like) {
        if (a.kind != NodeKind::Text)
            fail(a.column, fmt::format("the name of a {} in quotes would fit, like `{}`", what, like));
    }

    Kind limits(const Node& a, const Node& call) {
        wantText(a, "set of golden limits", "\"Normal\"");
        const auto set = names_.limits.find(a.text);
        if (set == names_.limits.end())
            fail(a.column, fmt::format("`{}` is not a set of golden limits of this study{}", a.text,
                                       sayNearest(a.text, keys(names_.limits))));
        const Node& tag = *call.children[1];
        if (tag.kind != NodeKind::Role && tag.kind != NodeKind::Name) return {ValueType::Text, {}};
        const auto named = roleNamed(tag.text);
        if (!set->second.contains(named == names_.roles.end() ? tag.text : named->first))
            fail(tag.column, fmt::format("`{}` has no limits in `{}`{}", tag.text, a.text,
                                         sayNearest(tag.text, {set->second.begin(), set->second.end()})));
        return {ValueType::Text, {}};
    }

    const Names& names_;
    Expression& out_;
    int windows_ = 0;  ///< around what is being checked: each looks at a line that began before it

  public:
    Expression finish(const Kind& kind) {
        out_.type = kind.type;
        out_.unit = kind.type == ValueType::DurationValue ? "s" : kind.unit.name;
        return std::move(out_);
    }
};

}  // namespace

const char* typeName(ValueType type) {
    switch (type) {
        case ValueType::Number:
            return "number";
        case ValueType::Condition:
            return "condition";
        case ValueType::DurationValue:
            return "duration";
        case ValueType::State:
            return "state";
        case ValueType::Text:
            return "text";
    }
    return "value";
}

Result<Expression> compileExpression(std::string_view text, const Names& names) {
    Result<NodePtr> root = parseExpression(text);
    if (!root) return root.error();
    Expression out;
    out.text = text;
    out.root = *root;
    try {
        Checker checker(names, out);
        return checker.finish(checker.check(**root, {}));
    } catch (const CheckError& e) {
        return Error{onOneLine(e.error.message), e.error.column};
    }
}

}  // namespace jacinth
