#include "work/derived/derived_refresh.h"

#include <algorithm>

#include "core/expr/pieces.h"
#include "core/expr/sampled.h"
#include "store/derived_catalog.h"
#include "store/sample_store.h"
#include "store/wall_time.h"
#include "work/base/study_pool.h"
#include "work/derived/derived_expressions.h"
#include "work/derived/derived_web.h"

namespace jacinth {
namespace {

constexpr std::size_t kSamplesAtOnce = 1 << 20;  // in memory before they are written

/// Writes what a sampler has; the first write drops what there was. Samples are coded before the file is
/// locked, so that a change made in the window meanwhile waits for milliseconds. What it was made from is
/// entered last.
class Writer {
  public:
    Writer(Study& study, TagId tag) : study_(study), tag_(tag) {}
    void write(const SeriesView& samples) {
        begin();
        if (samples.empty()) return;
        PreparedWrite prepared = study_.samples().prepare(tag_, samples);
        SampleStore::code(prepared);
        WriteBatch transaction(study_);
        if (!study_.samples().apply(prepared))
            throw StoreError("another program is calculating the same tag");
        transaction.commit();
    }
    void finish(const DerivedState& state) {
        begin();
        WriteBatch transaction(study_);
        study_.derived().setState(tag_, state);
        study_.samples().gatherIndex(tag_);
        transaction.commit();
    }

  private:
    void begin() {
        if (begun_) return;
        WriteBatch transaction(study_);
        study_.derived().dropSamples(tag_);
        study_.derived().setState(tag_, {});
        transaction.commit();
        begun_ = true;
    }
    Study& study_;
    TagId tag_;
    bool begun_ = false;
};

Status recalculate(Study& study, const Tag& tag, const Expression& expression, const DerivedState& state,
                   const Progress& progress) {
    const ExpressionReach reach = reachOf(study, expression, tag.asset);
    StudyPool pool(study.path());
    Sampler sampler(tag.longestGap.value_or(kHour));
    Writer writer(study, tag.id);
    const Status done = evaluateInPieces(
        expression, reach.range, piecesFor(expression, reach.spacing, reach.margin),
        [&](TimeRange wanted) { return pool.inputs(tag.asset, wanted); },
        [&](TimeRange part, const Value& value) {
            sampler.add(part, value);
            if (sampler.size() >= kSamplesAtOnce) writer.write(sampler.take());
        },
        2, progress);
    if (!done) return done;
    sampler.finish(reach.range.to);
    writer.write(sampler.take());
    writer.finish(state);
    return Done{};
}

}  // namespace

Result<DerivedRefresh> refreshDerived(Study& study,
                                      const std::function<bool(const std::string&, double)>& goOn) {
    DerivedRefresh out;
    const std::vector<DerivedExpression> all = derivedExpressions(study);
    const auto stale = static_cast<double>(
        std::count_if(all.begin(), all.end(), [](const DerivedExpression& d) { return d.stale; }));
    StudyMarks marks(study);
    DerivedWeb web(study, marks);
    double done = 0;
    for (const DerivedExpression& d : all) {
        DerivedState state{marks.madeFrom(d.tag, d.text), timeNow(), ""};
        if (!d.stale) continue;
        bool stopped = false;
        const auto share = [&](double s) {
            stopped |= goOn && !goOn(d.tag.path(), (done + s) / stale);
            return !stopped;
        };
        if (!share(0)) return Error::cancelled();
        const auto expression = compileExpression(d.text, marks.names(d.tag.asset));
        if (const auto way = web.wayRound(d.tag.id); !way.empty())
            state.trouble = "it is made from itself: " + way;
        else if (!expression)
            state.trouble = expression.error().message;
        else if (const Status worked = recalculate(study, d.tag, *expression, state, share); !worked) {
            if (stopped) return worked.error();
            state.trouble = worked.error().message;
        }
        if (state.trouble.empty()) {
            out.made.push_back(d.tag.path());
        } else {
            Writer(study, d.tag.id).finish(state);
            out.trouble.push_back(d.tag.path() + ": " + state.trouble);
        }
        ++done;
    }
    return out;
}

}  // namespace jacinth
