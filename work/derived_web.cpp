#include "work/derived_web.h"

#include <algorithm>

#include "work/derived_expressions.h"

namespace jacinth {

std::string DerivedWeb::textOf(std::int64_t tag) const {
    const auto known = changed_.find(tag);
    return known != changed_.end() ? known->second : derivedText(study_, tag);
}

const std::vector<std::int64_t>& DerivedWeb::inputsOf(std::int64_t tag) {
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

bool DerivedWeb::follow(std::int64_t from, std::int64_t wanted, std::set<std::int64_t>& seen,
                        std::vector<std::int64_t>& way) {
    for (const std::int64_t input : inputsOf(from)) {
        way.push_back(input);
        if (input == wanted) return true;
        if (seen.insert(input).second && follow(input, wanted, seen, way)) return true;
        way.pop_back();
    }
    return false;
}

std::string DerivedWeb::wayRound(std::int64_t tag) {
    std::set<std::int64_t> seen;
    std::vector<std::int64_t> way{tag};
    if (!follow(tag, tag, seen, way)) return {};
    std::string out;
    for (const std::int64_t id : way)
        out += (out.empty() ? "`" : " → `") + study_.catalog().tag(id)->path() + "`";
    return out;
}

void DerivedWeb::visit(std::int64_t tag, std::set<std::int64_t>& seen, std::vector<std::int64_t>& out) {
    if (!seen.insert(tag).second) return;
    for (const std::int64_t input : inputsOf(tag)) visit(input, seen, out);
    out.push_back(tag);
}

std::vector<std::int64_t> DerivedWeb::inOrder(const std::vector<std::int64_t>& all) {
    std::vector<std::int64_t> out;
    std::set<std::int64_t> seen;
    for (const std::int64_t tag : all) visit(tag, seen, out);
    std::erase_if(out, [&](std::int64_t tag) { return std::find(all.begin(), all.end(), tag) == all.end(); });
    return out;
}

}  // namespace jacinth
