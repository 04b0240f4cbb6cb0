// Tokens to a tree: recursive descent, one function a rule of the grammar.
#include <fmt/format.h>

#include <algorithm>

#include "core/base/text.h"
#include "core/expr/ast.h"
#include "core/expr/functions.h"

namespace jacinth {
namespace {

constexpr std::size_t kLongest = 20'000;
constexpr int kDeepest = 100;

/// Thrown and caught inside this file only: recursive descent reads better without a check a line.
struct ParseError {
    Error error;
};

class Parser {
  public:
    explicit Parser(std::vector<Token> tokens) : tokens_(std::move(tokens)) {
        std::erase_if(tokens_, [](const Token& t) { return t.kind == TokenKind::Comment; });
    }

    NodePtr whole() {
        NodePtr node = expression();
        if (peek().kind != TokenKind::End) fail("the end, an operator or `for`");
        return node;
    }

  private:
    const Token& peek(std::size_t ahead = 0) const {
        return tokens_[std::min(at_ + ahead, tokens_.size() - 1)];
    }
    Token take() { return tokens_[std::min(at_++, tokens_.size() - 1)]; }
    bool is(TokenKind kind, std::string_view text, std::size_t ahead = 0) const {
        return peek(ahead).kind == kind && peek(ahead).text == text;
    }
    bool accept(TokenKind kind, std::string_view text) {
        if (!is(kind, text)) return false;
        ++at_;
        return true;
    }
    bool acceptKeyword(std::string_view text) { return accept(TokenKind::Keyword, text); }
    bool acceptSymbol(std::string_view text) { return accept(TokenKind::Symbol, text); }

    [[noreturn]] void fail(const std::string& wanted) const {
        const Token& t = peek();
        const std::string found =
            t.kind == TokenKind::End ? "the text ends here" : fmt::format("found `{}`", t.text);
        throw ParseError{{fmt::format("column {}: {}; {} would fit", t.column, found, wanted), t.column}};
    }
    void expectSymbol(std::string_view text) {
        if (!acceptSymbol(text)) fail(fmt::format("`{}`", text));
    }

    std::shared_ptr<Node> make(NodeKind kind, int column) const {
        auto node = std::make_shared<Node>();
        node->kind = kind;
        node->column = column;
        return node;
    }
    NodePtr make(NodeKind kind, int column, std::vector<NodePtr> children) const {
        auto node = make(kind, column);
        node->children = std::move(children);
        return node;
    }

    /// Counts nesting while it lives.
    struct Deeper {
        explicit Deeper(Parser& p) : parser(p) {
            if (++parser.depth_ > kDeepest)
                throw ParseError{
                    {fmt::format("column {}: nested deeper than {}", parser.peek().column, kDeepest),
                     parser.peek().column}};
        }
        ~Deeper() { --parser.depth_; }
        Parser& parser;
    };

    NodePtr expression() {
        Deeper deeper(*this);
        NodePtr left = disjunction();
        if (is(TokenKind::Keyword, "for")) {
            const int column = take().column;
            if (peek().kind != TokenKind::DurationWord) fail("a duration like `20m`");
            auto node = make(NodeKind::For, column);
            node->duration = take().duration;
            node->children = {left};
            return node;
        }
        return left;
    }

    NodePtr disjunction() {
        NodePtr left = conjunction();
        while (is(TokenKind::Keyword, "or")) {
            const int column = take().column;
            left = make(NodeKind::Or, column, {left, conjunction()});
            longer();
        }
        return left;
    }

    NodePtr conjunction() {
        NodePtr left = negation();
        while (is(TokenKind::Keyword, "and")) {
            const int column = take().column;
            left = make(NodeKind::And, column, {left, negation()});
            longer();
        }
        return left;
    }

    NodePtr negation() {
        if (!is(TokenKind::Keyword, "not")) return comparison();
        Deeper deeper(*this);
        const int column = take().column;
        return make(NodeKind::Not, column, {negation()});
    }

    static bool comparisonKind(const Token& t, NodeKind& kind) {
        if (t.kind != TokenKind::Symbol) return false;
        if (t.text == "<")
            kind = NodeKind::Less;
        else if (t.text == "<=")
            kind = NodeKind::LessEqual;
        else if (t.text == ">")
            kind = NodeKind::Greater;
        else if (t.text == ">=")
            kind = NodeKind::GreaterEqual;
        else if (t.text == "=")
            kind = NodeKind::Equal;
        else if (t.text == "!=")
            kind = NodeKind::NotEqual;
        else
            return false;
        return true;
    }

    NodePtr comparison() {
        NodePtr left = sum();
        NodeKind kind{};
        const int column = peek().column;
        if (comparisonKind(peek(), kind)) {
            take();
            return make(kind, column, {left, sum()});
        }
        if (acceptKeyword("between")) {
            NodePtr low = sum();
            if (!acceptKeyword("and")) fail("`and` and the greater end");
            return make(NodeKind::Between, column, {left, low, sum()});
        }
        if (acceptKeyword("is")) {
            auto node = make(NodeKind::Is, column);
            node->negated = acceptKeyword("not");
            node->children = {left};
            node->states.push_back(state());
            return node;
        }
        const bool notIn = is(TokenKind::Keyword, "not") && is(TokenKind::Keyword, "in", 1);
        if (notIn) take();
        if (acceptKeyword("in")) return states(left, column, notIn);
        return left;
    }

    NodePtr states(NodePtr left, int column, bool negated) {
        auto node = make(NodeKind::In, column);
        node->negated = negated;
        node->children = {std::move(left)};
        expectSymbol("(");
        do node->states.push_back(state());
        while (acceptSymbol(","));
        expectSymbol(")");
        return node;
    }

    std::string state() {
        if (peek().kind != TokenKind::Text) fail("a state in quotes like `\"Auto\"`");
        return take().text;
    }

    NodePtr sum() {
        NodePtr left = product();
        while (is(TokenKind::Symbol, "+") || is(TokenKind::Symbol, "-")) {
            const Token t = take();
            left = make(t.text == "+" ? NodeKind::Add : NodeKind::Subtract, t.column, {left, product()});
            longer();
        }
        return left;
    }

    NodePtr product() {
        NodePtr left = power();
        while (is(TokenKind::Symbol, "*") || is(TokenKind::Symbol, "/")) {
            const Token t = take();
            left = make(t.text == "*" ? NodeKind::Multiply : NodeKind::Divide, t.column, {left, power()});
            longer();
        }
        return left;
    }

    NodePtr power() {
        NodePtr left = unary();
        if (!is(TokenKind::Symbol, "^")) return left;
        Deeper deeper(*this);
        const int column = take().column;
        return make(NodeKind::Power, column, {left, power()});
    }

    NodePtr unary() {
        if (!is(TokenKind::Symbol, "-")) return primary();
        const int column = take().column;
        return make(NodeKind::Negate, column, {primary()});
    }

    NodePtr primary() {
        const Token t = peek();
        if (acceptSymbol("(")) {
            NodePtr inside = expression();
            expectSymbol(")");
            return inside;
        }
        const auto leaf = [&](NodeKind kind) {
            take();
            auto node = make(kind, t.column);
            node->text = t.text;
            node->number = t.number;
            node->duration = t.duration;
            return node;
        };
        switch (t.kind) {
            case TokenKind::Number:
                return leaf(NodeKind::Number);
            case TokenKind::DurationWord:
                return leaf(NodeKind::DurationLiteral);
            case TokenKind::Text:
                return leaf(NodeKind::Text);
            case TokenKind::Role:
                return leaf(NodeKind::Role);
            case TokenKind::Path:
                // The path of a tag has a slash; a fact whose name is not one word stands in the same marks.
                return leaf(peek().text.find('/') == std::string::npos ? NodeKind::Name : NodeKind::Path);
            case TokenKind::Word:
                return is(TokenKind::Symbol, "(", 1) ? call() : NodePtr(leaf(NodeKind::Name));
            default:
                fail("a number, a tag like `@role`, a function or `(`");
        }
    }

    NodePtr call() {
        Deeper deeper(*this);
        const Token name = take();
        auto node = make(NodeKind::Call, name.column);
        node->text = name.text;
        node->function = functionNamed(name.text);
        expectSymbol("(");
        if (!is(TokenKind::Symbol, ")")) {
            do node->children.push_back(expression());
            while (acceptSymbol(","));
            if (acceptKeyword("over"))
                node->window = window();
            else if (acceptKeyword("since"))
                node->window.since = track(node->window);
            else if (acceptKeyword("during"))
                node->window.during = track(node->window);
        }
        expectSymbol(")");
        return node;
    }

    std::string track(Window& window) {
        window.column = peek().column;
        if (peek().kind != TokenKind::Text && peek().kind != TokenKind::Word)
            fail("a track like `\"Stops\"`");
        if (peek().text.empty()) fail("a track like `\"Stops\"`");
        return take().text;
    }

    Window window() {
        Window out;
        out.column = peek().column;
        if (peek().kind == TokenKind::DurationWord && peek().duration > Duration::zero()) {
            out.duration = take().duration;
            return out;
        }
        if (peek().kind == TokenKind::Number && is(TokenKind::Keyword, "samples", 1)) {
            const double n = peek().number;
            if (n < 1 || n > 1e8 || n != static_cast<int>(n)) fail("a whole number of samples");
            take();
            take();
            out.samples = static_cast<int>(n);
            return out;
        }
        fail("a duration like `6h` or a number of samples like `12 samples`");
    }

    // A chain `a + b + c …` grows the tree to the left without recursion here, but whoever walks the tree
    // recurses: bound it as well.
    void longer() {
        if (++links_ > 400)
            throw ParseError{{fmt::format("column {}: more than 400 operators in one text", peek().column),
                              peek().column}};
    }

    std::vector<Token> tokens_;
    std::size_t at_ = 0;
    int depth_ = 0;
    int links_ = 0;
};

}  // namespace

bool isCondition(const Node& n) {
    switch (n.kind) {
        case NodeKind::Not:
        case NodeKind::Less:
        case NodeKind::LessEqual:
        case NodeKind::Greater:
        case NodeKind::GreaterEqual:
        case NodeKind::Equal:
        case NodeKind::NotEqual:
        case NodeKind::Between:
        case NodeKind::Is:
        case NodeKind::In:
        case NodeKind::And:
        case NodeKind::Or:
        case NodeKind::For:
            return true;
        case NodeKind::Call:
            return n.function && n.function->gives == Gives::Condition;
        default:
            return false;
    }
}

namespace {

/// The key of a part whose children have theirs.
std::string keyOf(const Node& n) {
    std::string out = fmt::format("{}", static_cast<int>(n.kind));
    if (n.kind == NodeKind::Number) out += fmt::format("#{}", n.number);
    if (n.duration != Duration{}) out += fmt::format("d{}", n.duration.count());
    if (!n.text.empty()) out += fmt::format("'{}:{}", n.text.size(), n.text);
    if (n.negated) out += '!';
    if (n.window.given())
        out += fmt::format("w{},{},{}:{},{}:{}", n.window.duration.count(), n.window.samples,
                           n.window.since.size(), n.window.since, n.window.during.size(), n.window.during);
    for (const std::string& state : n.states) out += fmt::format("s{}:{}", state.size(), state);
    out += '(';
    for (const NodePtr& c : n.children) out += c->key + ',';
    return out + ')';
}

NodePtr withKeys(const Node& n) {
    auto out = std::make_shared<Node>(n);
    for (NodePtr& c : out->children) c = withKeys(*c);
    out->key = keyOf(*out);
    return out;
}

}  // namespace

Result<NodePtr> parseExpression(std::string_view text) {
    if (text.size() > kLongest) return Error{fmt::format("the text is longer than {} bytes", kLongest), 1};
    try {
        return withKeys(*Parser(tokenize(text)).whole());
    } catch (const ParseError& e) {
        return Error{onOneLine(e.error.message), e.error.column};
    }
}

}  // namespace jacinth
