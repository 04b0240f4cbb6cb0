#include "work/label/kinds.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <cstdlib>
#include <nlohmann/json.hpp>

#include "core/base/parse_json.h"
#include "store/judgement.h"
#include "store/tracks.h"
#include "store/write_file.h"
#include "work/label/labels.h"

namespace jacinth {
namespace {

using nlohmann::json;

json kindToJson(const LabelKind& kind) {
    return {{"name", kind.name},     {"meaning", kind.meaning},
            {"colour", kind.colour}, {"key", kind.key ? json(std::string(1, kind.key)) : json()},
            {"normal", kind.normal}, {"parent", kind.parent}};
}

Status check(const LabelBook& book) {
    for (const LabelKind& kind : book)
        if (const Status good = checkName(kind.name, "a kind of label"); !good) return good;
    return checkBook(book);
}

Error isNotThere(const LabelBook& book, const std::string& name) {
    std::vector<std::string> known;
    for (const LabelKind& k : book) known.push_back(k.name);
    return Error{fmt::format("`{}` is not in the label book; it has {}", name, fmt::join(known, ", "))};
}

std::vector<Span> marksNamed(const Study& study, const std::string& kind) {
    std::vector<Span> out = study.tracks().spansOf(track_kind::kLabels);
    std::erase_if(out, [&](const Span& s) { return factText(s.facts, label_fact::kKind) != kind; });
    return out;
}

void renameMarks(Study& study, std::vector<Span> marks, const std::string& to) {
    for (Span& s : marks) {
        if (to.empty())
            s.facts.erase(label_fact::kKind);
        else
            s.facts[label_fact::kKind] = to;
        study.tracks().updateSpan(s);
    }
}

void moveBelow(LabelBook& book, const std::string& from, const std::string& to) {
    for (LabelKind& k : book)
        if (k.parent == from) k.parent = k.name == to ? std::string() : to;
}

LabelBook::iterator at(LabelBook& book, const std::string& name) {
    return std::find_if(book.begin(), book.end(), [&](const LabelKind& k) { return k.name == name; });
}

Result<LabelKind> kindFromJson(const json& j, std::size_t number) {
    const auto wrong = [&](const std::string& what) {
        return Error{fmt::format("kind {} of the book: {}", number, what)};
    };
    if (!j.is_object()) return wrong("it is not an object");
    const auto text = [&](const char* name) {
        return j.contains(name) && j[name].is_string() ? j[name].get<std::string>() : std::string();
    };
    const LabelKind kind{text("name"),
                         text("meaning"),
                         text("colour"),
                         text("key").empty() ? '\0' : text("key")[0],
                         j.contains("normal") && j["normal"].is_boolean() && j["normal"].get<bool>(),
                         text("parent")};
    if (kind.name.empty()) return wrong("it has no name");
    if (text("key").size() > 1) return wrong("a key is one character");
    return kind;
}

}  // namespace

Status addLabelKind(Study& study, const LabelKind& kind) {
    LabelBook book = study.judgement().labelBook();
    book.push_back(kind);
    if (const Status good = check(book); !good) return good;
    study.change("kind of label " + kind.name, "", kindToJson(kind),
                 [&] { study.judgement().setLabelBook(book); });
    return Done{};
}

Status changeLabelKind(Study& study, const std::string& name, const LabelKind& to) {
    LabelBook book = study.judgement().labelBook();
    const auto kind = at(book, name);
    if (kind == book.end()) return isNotThere(book, name);
    const json before = kindToJson(*kind);
    *kind = to;
    if (to.name != name) moveBelow(book, name, to.name);
    if (const Status good = check(book); !good) return good;
    study.change(to.name == name ? "change kind of label " + name
                                 : fmt::format("rename kind of label {} to {}", name, to.name),
                 "", {{"before", before}, {"after", kindToJson(to)}}, [&] {
                     study.judgement().setLabelBook(book);
                     if (to.name != name) renameMarks(study, marksNamed(study, name), to.name);
                 });
    return Done{};
}

Status mergeLabelKinds(Study& study, const std::string& from, const std::string& into) {
    LabelBook book = study.judgement().labelBook();
    if (from == into) return Error{"a kind cannot be merged into itself"};
    for (const std::string& name : {from, into})
        if (at(book, name) == book.end()) return isNotThere(book, name);
    const json gone = kindToJson(*at(book, from));
    // A kind below the one that goes takes its place in the tree.
    if (at(book, into)->parent == from) at(book, into)->parent = at(book, from)->parent;
    moveBelow(book, from, into);
    book.erase(at(book, from));
    if (const Status good = check(book); !good) return good;
    const std::vector<Span> marks = marksNamed(study, from);
    study.change(fmt::format("merge kind of label {} into {}", from, into), "",
                 {{"kind", gone}, {"into", into}, {"marks", marks.size()}}, [&] {
                     study.judgement().setLabelBook(book);
                     renameMarks(study, marks, into);
                 });
    return Done{};
}

Status removeLabelKind(Study& study, const std::string& name, MarksOfKind what) {
    LabelBook book = study.judgement().labelBook();
    const auto kind = at(book, name);
    if (kind == book.end()) return isNotThere(book, name);
    const json gone = kindToJson(*kind);
    const std::string parent = kind->parent;
    book.erase(kind);
    moveBelow(book, name, parent);
    const std::vector<Span> marks = marksNamed(study, name);
    study.change("remove kind of label " + name, "",
                 {{"kind", gone},
                  {"marks", marks.size()},
                  {"marks are", what == MarksOfKind::Removed ? "removed" : "not named"}},
                 [&] {
                     study.judgement().setLabelBook(book);
                     if (what == MarksOfKind::Unnamed) return renameMarks(study, marks, {});
                     for (const Span& s : marks) study.tracks().removeSpan(s.id);
                 });
    return Done{};
}

std::size_t marksOfKind(const Study& study, const std::string& name) {
    return marksNamed(study, name).size();
}

std::string bookText(const LabelBook& book) {
    json out = json::array();
    for (const LabelKind& kind : book) out.push_back(kindToJson(kind));
    return out.dump(2) + "\n";
}

Result<LabelBook> readBook(std::string_view text) {
    json all = parseJson(text);
    if (all.is_object() && all.contains("book")) all = json(all["book"]);
    if (!all.is_array()) return Error{"this is not a label book: an array of kinds in JSON"};
    LabelBook book;
    for (const json& j : all) {
        const auto kind = kindFromJson(j, book.size() + 1);
        if (!kind) return kind.error();
        book.push_back(*kind);
        if (book.back().colour.empty()) book.back().colour = freeColour(book);
    }
    if (const Status good = check(book); !good) return good.error();
    return book;
}

Status takeBook(Study& study, const LabelBook& given) {
    LabelBook book = given;
    for (const LabelKind& kind : study.judgement().labelBook()) {
        if (findKind(book, kind.name) || marksNamed(study, kind.name).empty()) continue;
        LabelKind stays = kind;
        for (const LabelKind& k : book)
            if (k.key == stays.key) stays.key = 0;
        if (!findKind(given, stays.parent)) stays.parent.clear();
        book.push_back(stays);
    }
    if (const Status good = check(book); !good) return good;
    study.change("take over a label book", "", {{"book", parseJson(bookText(book))}},
                 [&] { study.judgement().setLabelBook(book); });
    return Done{};
}

std::filesystem::path siteBookPath() {
    const char* config = std::getenv("XDG_CONFIG_HOME");
    const char* home = std::getenv("HOME");
    const std::filesystem::path below = config && *config ? std::filesystem::path(config)
                                        : home            ? std::filesystem::path(home) / ".config"
                                                          : std::filesystem::path();
    return below.empty() ? below : below / "jacinth" / "label-book.json";
}

Status keepAsSiteBook(const LabelBook& book) {
    const auto path = siteBookPath();
    if (path.empty()) return Error{"neither XDG_CONFIG_HOME nor HOME says where the site's book is kept"};
    std::error_code trouble;
    std::filesystem::create_directories(path.parent_path(), trouble);
    if (trouble) return Error{fmt::format("{}: {}", path.parent_path().string(), trouble.message())};
    return writeWhole(path.string(), bookText(book));
}

Status beginWithSiteBook(Study& study) {
    const auto path = siteBookPath();
    std::error_code trouble;
    if (path.empty() || !std::filesystem::exists(path, trouble)) return Done{};
    const auto text = readWhole(path.string());
    const auto book = text ? readBook(*text) : Result<LabelBook>(text.error());
    if (!book)
        return Error{fmt::format("the site's label book, {}: {}", path.string(), book.error().message)};
    WriteBatch batch(study);
    study.judgement().setLabelBook(*book);
    batch.commit();
    return Done{};
}

}  // namespace jacinth
