#include "work/derived/derived_web.h"

#include <algorithm>

#include "store/judgement.h"
#include "work/derived/derived_expressions.h"

namespace jacinth {

std::string DerivedWeb::textOf(TagId tag) const {
    const auto known = changed_.find(tag);
    return known != changed_.end() ? known->second : derivedText(study_, tag);
}

const std::vector<TagId>& DerivedWeb::inputsOf(TagId tag) {
    const auto known = inputs_.find(tag);
    if (known != inputs_.end()) return known->second;
    std::vector<TagId> out;
    const std::string text = textOf(tag);
    const Tag* t = study_.catalog().tag(tag);
    if (!text.empty() && t)
        if (const auto expression = compileExpression(text, marks_.names(t->asset)))
            out = tagsOf(study_, *expression, t->asset);
    for (const Fix& fix : study_.judgement().fixes(tag))
        if (const auto* borrow = std::get_if<BorrowFix>(&fix.body); borrow && fix.on)
            if (study_.catalog().tag(borrow->twin) && std::ranges::count(out, borrow->twin) == 0)
                out.push_back(borrow->twin);
    return inputs_[tag] = std::move(out);
}

bool DerivedWeb::follow(TagId from, TagId wanted, std::set<TagId>& seen, std::vector<TagId>& way) {
    for (const TagId input : inputsOf(from)) {
        way.push_back(input);
        if (input == wanted) return true;
        if (seen.insert(input).second && follow(input, wanted, seen, way)) return true;
        way.pop_back();
    }
    return false;
}

std::string DerivedWeb::wayRound(TagId tag) {
    return wayFrom(tag, tag);
}

std::string DerivedWeb::wayFrom(TagId tag, TagId to) {
    std::set<TagId> seen;
    std::vector<TagId> way{tag};
    if (!follow(tag, to, seen, way)) return {};
    std::string out;
    for (const TagId id : way) out += (out.empty() ? "`" : " → `") + study_.catalog().tag(id)->path() + "`";
    return out;
}

void DerivedWeb::visit(TagId tag, std::set<TagId>& seen, std::vector<TagId>& out) {
    if (!seen.insert(tag).second) return;
    for (const TagId input : inputsOf(tag)) visit(input, seen, out);
    out.push_back(tag);
}

std::vector<TagId> DerivedWeb::inOrder(const std::vector<TagId>& all) {
    std::vector<TagId> out;
    std::set<TagId> seen;
    for (const TagId tag : all) visit(tag, seen, out);
    std::erase_if(out, [&](TagId tag) { return std::find(all.begin(), all.end(), tag) == all.end(); });
    return out;
}

}  // namespace jacinth
