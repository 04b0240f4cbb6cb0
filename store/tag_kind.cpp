#include "store/tag_kind.h"

#include <fmt/format.h>

#include <cmath>
#include <limits>

#include "core/base/text.h"
#include "core/series/text_value.h"
#include "store/imports.h"
#include "store/sample_store.h"

namespace jacinth {
namespace {

class Conversion {
  public:
    Conversion(Study& study, TagId tag, bool toStates) : study_(study), tag_(tag), toStates_(toStates) {
        for (const std::string& name : study.catalog().tag(tag)->states)
            numbers_.push_back(finiteNumber(trimmed(name)));
    }

    void operator()(Series& s) {
        for (std::size_t i = 0; i < s.size(); ++i) toStates_ ? toState(s, i) : toNumber(s.values[i]);
    }

  private:
    void toState(Series& s, std::size_t i) {
        double& v = s.values[i];
        if (const auto code = textOfValue(v)) {
            v = static_cast<double>(*code);
            // A text among numbers was bad for that alone; as a state it was read as well as any other.
            if (!s.quality.empty() && s.quality[i] == Quality::Bad) s.quality[i] = Quality::Good;
        } else if (std::isfinite(v)) {
            v = study_.catalog().addState(tag_, fmt::format("{}", v));
        }
    }

    void toNumber(double& v) const {
        if (!std::isfinite(v) || v < 0) return;
        const auto code = static_cast<std::size_t>(v);
        v = code < numbers_.size() && numbers_[code] ? *numbers_[code]
                                                     : valueOfText(static_cast<std::uint32_t>(code));
    }

    Study& study_;
    TagId tag_;
    bool toStates_;
    std::vector<std::optional<double>> numbers_;  ///< of states, by code
};

}  // namespace

void changeTagKind(Study& study, TagId id, TagKind kind) {
    const Tag* known = study.catalog().tag(id);
    if (!known) throw StoreError("there is no such tag");
    Tag tag = *known;
    const bool was = tag.kind == TagKind::State, is = kind == TagKind::State;
    if (was != is) {
        Conversion convert(study, id, is);
        study.samples().rewrite(id, {Instant(Duration::min() / 2), Instant(Duration::max() / 2)},
                                [&](Series& s) { convert(s); });
        study.imports().rewriteReplaced(id, [&](Series& s) { convert(s); });
    }
    tag = *study.catalog().tag(id);
    tag.kind = kind;
    study.catalog().updateTag(tag);
}

}  // namespace jacinth
