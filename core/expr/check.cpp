#include "core/expr/check.h"

#include <fmt/format.h>

#include <algorithm>

namespace jacinth {
namespace {

enum class WindowRule { Never, Always };
struct Function {
    const char* name;
    std::vector<ValueType> arguments;
    ValueType result;
    WindowRule window;
};

const std::vector<Function>& functions() {
    using enum ValueType;
    using enum WindowRule;
    static const std::vector<Function> all{
        {"abs", {Number}, Number, Never},          {"sqrt", {Number}, Number, Never},
        {"exp", {Number}, Number, Never},          {"ln", {Number}, Number, Never},
        {"log10", {Number}, Number, Never},        {"sign", {Number}, Number, Never},
        {"round", {Number}, Number, Never},        {"floor", {Number}, Number, Never},
        {"ceil", {Number}, Number, Never},         {"least", {Number, Number}, Number, Never},
        {"most", {Number, Number}, Number, Never}, {"clip", {Number, Number, Number}, Number, Never},
        {"mean", {Number}, Number, Always},        {"median", {Number}, Number, Always},
        {"min", {Number}, Number, Always},         {"max", {Number}, Number, Always},
        {"range", {Number}, Number, Always},       {"sum", {Number}, Number, Always},
        {"sd", {Number}, Number, Always},          {"count", {Number}, Number, Always},
        {"slope", {Number}, Number, Always},       {"share", {Condition}, Number, Always},
    };
    return all;
}

struct CheckError {
    Error error;
};

class Checker {
  public:
    Checker(const Names& names, Expression& out) : names_(names), out_(out) {}

    ValueType check(const Node& n, Duration reach) {
        out_.lookBack = std::max(out_.lookBack, reach);
        switch (n.kind) {
            case NodeKind::Number:
                return ValueType::Number;
            case NodeKind::DurationLiteral:
                return ValueType::DurationValue;
            case NodeKind::Text:
                return ValueType::Text;
            case NodeKind::Role:
                return role(n);
            case NodeKind::Path:
                return path(n);
            case NodeKind::Name:
                return name(n);
            case NodeKind::Negate: {
                const ValueType t = check(*n.children[0], reach);
                if (t != ValueType::DurationValue) want(*n.children[0], t, ValueType::Number);
                return t;
            }
            case NodeKind::Not:
                want(*n.children[0], check(*n.children[0], reach), ValueType::Condition);
                return ValueType::Condition;
            case NodeKind::Add:
            case NodeKind::Subtract:
            case NodeKind::Multiply:
            case NodeKind::Divide:
            case NodeKind::Power:
                return arithmetic(n, reach);
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
            case NodeKind::And:
            case NodeKind::Or:
                for (const NodePtr& c : n.children) want(*c, check(*c, reach), ValueType::Condition);
                return ValueType::Condition;
            case NodeKind::For:
                want(*n.children[0], check(*n.children[0], reach + n.duration), ValueType::Condition);
                return ValueType::Condition;
            case NodeKind::Call:
                return call(n, reach);
        }
        return ValueType::Number;
    }

  private:
    [[noreturn]] static void fail(int column, const std::string& what) {
        throw CheckError{{fmt::format("column {}: {}", column, what), column}};
    }
    static void want(const Node& n, ValueType found, ValueType wanted) {
        if (found != wanted)
            fail(n.column, fmt::format("this is a {}; a {} would fit", typeName(found), typeName(wanted)));
    }
    static std::string nearest(const std::string& name, const std::vector<std::string>& known) {
        const std::string best = nearestName(name, known);
        return best.empty() ? std::string() : fmt::format("; nearest is `{}`", best);
    }
    template <typename Map>
    static std::vector<std::string> keys(const Map& map) {
        std::vector<std::string> out;
        for (const auto& [key, value] : map) out.push_back(key);
        return out;
    }
    static ValueType typeOf(const TagInfo& tag) {
        return tag.kind == TagKind::State ? ValueType::State : ValueType::Number;
    }

    ValueType role(const Node& n) {
        const auto found = names_.roles.find(n.text);
        if (found == names_.roles.end())
            fail(n.column, fmt::format("`{}` is no role of {}{}", n.text, names_.assetKind,
                                       nearest(n.text, keys(names_.roles))));
        out_.roles.insert(n.text);
        return typeOf(found->second);
    }

    ValueType path(const Node& n) {
        const auto found = names_.paths.find(n.text);
        if (found == names_.paths.end())
            fail(n.column, fmt::format("`{}` is no tag{}", n.text, nearest(n.text, keys(names_.paths))));
        out_.paths.insert(n.text);
        return typeOf(found->second);
    }

    ValueType name(const Node& n) {
        const auto found = names_.facts.find(n.text);
        if (found != names_.facts.end()) return found->second;
        std::vector<std::string> known = keys(names_.facts);
        for (const std::string& f : functionNames()) known.push_back(f);
        fail(n.column, fmt::format("`{}` is not known here{}", n.text, nearest(n.text, known)));
    }

    ValueType arithmetic(const Node& n, Duration reach) {
        const ValueType a = check(*n.children[0], reach), b = check(*n.children[1], reach);
        const bool sums = n.kind == NodeKind::Add || n.kind == NodeKind::Subtract;
        if (sums && a == ValueType::DurationValue && b == ValueType::DurationValue) return a;
        want(*n.children[0], a, ValueType::Number);
        want(*n.children[1], b, ValueType::Number);
        return ValueType::Number;
    }

    ValueType compare(const Node& n, Duration reach) {
        const ValueType first = check(*n.children[0], reach);
        const bool texts = n.kind == NodeKind::Equal || n.kind == NodeKind::NotEqual;
        if (first == ValueType::State)
            fail(n.column, "a state is compared with `is` or `in`, like `@burner_mode is \"Auto\"`");
        if (first == ValueType::Condition || (first == ValueType::Text && !texts))
            fail(n.children[0]->column, fmt::format("this is a {}; a number would fit", typeName(first)));
        for (std::size_t i = 1; i < n.children.size(); ++i) {
            const ValueType other = check(*n.children[i], reach);
            if (other != first)
                fail(n.children[i]->column,
                     fmt::format("a {} cannot be compared with a {}", typeName(first), typeName(other)));
        }
        return ValueType::Condition;
    }

    ValueType isState(const Node& n, Duration reach) {
        const Node& tag = *n.children[0];
        const ValueType type = check(tag, reach);
        if (type == ValueType::Text) return ValueType::Condition;
        want(tag, type, ValueType::State);
        const auto& map = tag.kind == NodeKind::Role ? names_.roles : names_.paths;
        const std::vector<std::string>& known = map.at(tag.text).states;
        for (const std::string& s : n.states)
            if (std::find(known.begin(), known.end(), s) == known.end())
                fail(n.column, fmt::format("`{}` is no state of `{}`{}", s, tag.text, nearest(s, known)));
        return ValueType::Condition;
    }

    ValueType call(const Node& n, Duration reach) {
        const auto& all = functions();
        const auto f =
            std::find_if(all.begin(), all.end(), [&](const Function& x) { return n.text == x.name; });
        if (f == all.end())
            fail(n.column, fmt::format("`{}` is no function{}", n.text, nearest(n.text, functionNames())));
        if (n.children.size() != f->arguments.size())
            fail(n.column, fmt::format("`{}` takes {} argument{}, found {}", n.text, f->arguments.size(),
                                       f->arguments.size() == 1 ? "" : "s", n.children.size()));
        if (f->window == WindowRule::Never && n.window.given())
            fail(n.column, fmt::format("`{}` takes no `over`", n.text));
        // About a span, an aggregate without `over` is over the whole span.
        if (f->window == WindowRule::Always && !n.window.given() && !names_.aboutSpan)
            fail(n.column,
                 fmt::format("`{}` looks back over a time; add `over` and a duration, like `over 6h`",
                             n.text));
        for (std::size_t i = 0; i < n.children.size(); ++i)
            want(*n.children[i], check(*n.children[i], reach + n.window.duration), f->arguments[i]);
        return f->result;
    }

    const Names& names_;
    Expression& out_;
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

bool isWindowFunction(const std::string& name) {
    const auto& all = functions();
    return std::any_of(all.begin(), all.end(),
                       [&](const Function& f) { return f.name == name && f.window == WindowRule::Always; });
}

const std::vector<std::string>& functionNames() {
    static const std::vector<std::string> names = [] {
        std::vector<std::string> out;
        for (const Function& f : functions()) out.emplace_back(f.name);
        return out;
    }();
    return names;
}

Result<Expression> compileExpression(std::string_view text, const Names& names) {
    Result<NodePtr> root = parseExpression(text);
    if (!root) return root.error();
    Expression out;
    out.text = text;
    out.root = *root;
    try {
        out.type = Checker(names, out).check(**root, 0);
    } catch (const CheckError& e) {
        return e.error;
    }
    return out;
}

}  // namespace jacinth
