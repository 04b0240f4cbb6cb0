#include "core/expr/complete.h"

#include <fmt/format.h>

#include <algorithm>

#include "core/base/text.h"

namespace jacinth {
namespace {

constexpr std::size_t kMostOffers = 200;

/// The tokens before the caret, the last of them perhaps half written.
std::vector<Token> tokensBefore(std::string_view text, int caret) {
    std::vector<Token> out = tokenize(text);
    std::erase_if(out, [&](const Token& t) { return t.kind == TokenKind::End || t.column - 1 >= caret; });
    return out;
}

class Collector {
  public:
    explicit Collector(const std::string& written) : written_(lowerCase(written)) {}
    void offer(const std::string& name, const std::string& insert, const std::string& says) {
        const std::size_t at = lowerCase(name).find(written_);
        if (at == std::string::npos) return;
        (at == 0 ? first_ : later_).push_back({insert, says});
    }
    std::vector<Completion> take() {
        first_.insert(first_.end(), later_.begin(), later_.end());
        if (first_.size() > kMostOffers) first_.resize(kMostOffers);
        return std::move(first_);
    }

  private:
    std::string written_;
    std::vector<Completion> first_, later_;
};

std::string kindOf(const TagInfo& tag) {
    return tag.kind == TagKind::State ? "state" : tag.unit.empty() ? "number" : tag.unit;
}

/// The tag that `is` or `in (` asks about, before token i.
const TagInfo* askedAbout(const std::vector<Token>& tokens, std::size_t i, const Names& names) {
    while (i > 0) {
        const Token& t = tokens[--i];
        const bool between =
            t.kind == TokenKind::Keyword || t.kind == TokenKind::Text ||
            (t.kind == TokenKind::Symbol && (t.text == "(" || t.text == "," || t.text == ")"));
        if (t.kind == TokenKind::Role || t.kind == TokenKind::Path) {
            const auto& map = t.kind == TokenKind::Role ? names.roles : names.paths.all();
            const auto found = map.find(t.text);
            return found == map.end() ? nullptr : &found->second;
        }
        if (!between) return nullptr;
    }
    return nullptr;
}

void offerTexts(const std::vector<Token>& tokens, std::size_t place, const Names& names, Collector& out) {
    const auto quoted = [](const std::string& s) { return "\"" + s + "\""; };
    const auto before = [&](std::size_t back) -> const Token* {
        return place >= back ? &tokens[place - back] : nullptr;
    };
    const Token* one = before(1);
    const Token* two = before(2);
    const bool opened = one && one->text == "(" && two && two->kind == TokenKind::Word;
    const FunctionInfo* f = opened ? functionNamed(two->text) : nullptr;
    if (f && f->takes[0] == Takes::Limits) {
        for (const auto& [set, roles] : names.limits) out.offer(set, quoted(set), "golden limits");
        return;
    }
    const bool window =
        one && one->kind == TokenKind::Keyword && (one->text == "since" || one->text == "during");
    if (window || (f && (f->takes[0] == Takes::Track || f->takes[0] == Takes::Counted))) {
        for (const std::string& t : names.tracks) out.offer(t, quoted(t), "track");
        return;
    }
    if (const TagInfo* tag = askedAbout(tokens, place, names))
        for (const std::string& s : tag->states) out.offer(s, quoted(s), "state");
}

/// A name that is not one word stands in backquotes.
std::string nameInText(const std::string& name) {
    const std::vector<Token> tokens = tokenize(name);
    const bool oneWord = tokens.size() == 2 && tokens[0].kind == TokenKind::Word && tokens[0].text == name;
    return oneWord ? name : quotedPath(name);
}

void offerWords(const Names& names, Collector& out) {
    for (const FunctionInfo& f : functions())
        out.offer(f.name, std::string(f.name) + "(", fmt::format("{}: {}", f.form, f.means));
    for (const auto& [fact, type] : names.facts) out.offer(fact, nameInText(fact), "of the run");
    for (const std::string& d : names.derived) out.offer(d, d, "derived tag");
}

}  // namespace

Completions completeAt(std::string_view text, int caret, const Names& names) {
    const std::vector<Token> tokens = tokensBefore(text, caret);
    Completions out;
    out.from = caret;
    if (tokens.empty()) return out;
    const std::size_t place = tokens.size() - 1;
    const Token& last = tokens.back();
    const int start = last.column - 1;
    if (caret > start + last.length) {  // behind it: only a state has its place without a quote
        if (last.kind != TokenKind::Keyword) return out;
        Collector all("");
        offerTexts(tokens, place + 1, names, all);
        out.offers = all.take();
        return out;
    }
    // What is written of it up to the caret, in characters; marks aside.
    std::string written = last.text;
    if (last.kind == TokenKind::Unknown && !written.empty()) written.erase(0, 1);
    const bool openText = last.kind == TokenKind::Unknown && last.text.starts_with('"');
    const bool openPath = last.kind == TokenKind::Unknown && last.text.starts_with('`');
    const bool bareAt = last.kind == TokenKind::Unknown && last.text == "@";
    Collector found(written);
    if (last.kind == TokenKind::Role || bareAt) {
        for (const auto& [role, tag] : names.roles) found.offer(role, "@" + role, kindOf(tag));
    } else if (openPath) {
        for (const auto& [path, tag] : names.paths) found.offer(path, quotedPath(path), kindOf(tag));
        for (const auto& [fact, type] : names.facts)
            if (nameInText(fact) != fact) found.offer(fact, nameInText(fact), "of the run");
    } else if (openText) {
        offerTexts(tokens, place, names, found);
    } else if (last.kind == TokenKind::Word) {
        offerWords(names, found);
    }
    out.from = start;
    out.offers = found.take();
    // What stands there already needs no offer.
    if (out.offers.size() == 1 &&
        (out.offers[0].insert == last.text || out.offers[0].insert == "@" + last.text))
        out.offers.clear();
    return out;
}

const FunctionInfo* functionAt(std::string_view text, int caret) {
    const std::vector<Token> tokens = tokensBefore(text, caret);
    int depth = 0;
    for (std::size_t i = tokens.size(); i-- > 0;) {
        const Token& t = tokens[i];
        if (t.kind == TokenKind::Word && (i + 1 == tokens.size() || depth < 0))
            if (const FunctionInfo* f = functionNamed(t.text)) return f;
        if (depth < 0) depth = 0;  // the bracket was not that of a function
        if (t.kind == TokenKind::Symbol && t.text == ")") ++depth;
        if (t.kind == TokenKind::Symbol && t.text == "(") --depth;
    }
    return nullptr;
}

}  // namespace jacinth
