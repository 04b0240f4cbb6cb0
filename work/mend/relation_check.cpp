#include "work/mend/relation_check.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "core/base/missing.h"

namespace jacinth {
namespace {

std::vector<double> rowsOf(const Study& study, const Tag& tag, const std::vector<Instant>& edges,
                           const RelationQuestion& question) {
    const Series series = study.readForFigures(tag, {edges.front(), edges.back()}, question.which);
    std::vector<double> out = resample(series, tag.bridging(), edges, Take::Mean);
    if (question.logarithms)
        for (double& v : out) v = v > 0 ? std::log(v) : kMissing;
    if (question.differences) {
        for (std::size_t i = out.size(); i-- > 1;) out[i] -= out[i - 1];
        if (!out.empty()) out.front() = kMissing;
    }
    return out;
}

Result<std::vector<Tag>> tagsAsked(const Study& study, const RelationQuestion& question) {
    std::vector<Tag> out;
    std::vector<TagId> ids{question.of};
    ids.insert(ids.end(), question.on.begin(), question.on.end());
    for (const TagId id : ids) {
        const Tag* tag = study.catalog().tag(id);
        if (!tag) return Error{"a tag is not in this study"};
        if (tag->kind == TagKind::State)
            return Error{tag->path() + " holds states; a relation takes numbers"};
        for (const Tag& other : out)
            if (other.id == id) return Error{tag->path() + " is given twice"};
        out.push_back(*tag);
    }
    return out;
}

}  // namespace

Result<TagRelation> checkRelation(Study& study, const RelationQuestion& question, const Progress& progress) {
    const auto tags = tagsAsked(study, question);
    if (!tags) return tags.error();
    const TimeRange range = question.range.length() > Duration::zero() ? question.range : study.record();
    const auto edges = periodsIn(range, question.every, study.zone(), 200'000);
    if (!edges) return edges.error();
    if (edges->size() < 2) return Error{"the record is empty"};
    std::vector<std::vector<double>> columns;
    for (const Tag& tag : *tags) columns.push_back(rowsOf(study, tag, *edges, question));
    TagRelation out;
    std::vector<double> y;
    std::vector<Regressor> x{{"constant", {}}};
    for (std::size_t t = 1; t < tags->size(); ++t) x.push_back({(*tags)[t].path(), {}});
    for (std::size_t row = 0; row + 1 < edges->size(); ++row) {
        if (std::any_of(columns.begin(), columns.end(),
                        [&](const auto& c) { return !std::isfinite(c[row]); })) {
            ++out.leftOut;
            continue;
        }
        out.times.push_back((*edges)[row]);
        y.push_back(columns[0][row]);
        x[0].values.push_back(1);
        for (std::size_t t = 1; t < columns.size(); ++t) x[t].values.push_back(columns[t][row]);
    }
    auto relation = saturate(y, x, question.search, progress);
    if (!relation) return relation.error();
    out.relation = std::move(*relation);
    out.values = std::move(y);
    return out;
}

}  // namespace jacinth
