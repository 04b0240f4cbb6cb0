#include "work/prove/kept_figures.h"

#include <fmt/format.h>

#include <algorithm>
#include <mutex>

#include "core/base/ahead.h"
#include "store/trust_marks.h"
#include "work/base/expression_reach.h"
#include "work/derived/derived_inputs.h"

namespace jacinth {
namespace {

int windowsIn(const Node& n) {
    int out = n.window.given() ? 1 : 0;
    for (const NodePtr& c : n.children) out += windowsIn(*c);
    return out;
}

/// Gives the figures free at the end. No lock: a thread that waits may be given other work meanwhile.
class InUse {
  public:
    explicit InUse(std::atomic<bool>& flag) : flag_(flag) {}
    InUse(const InUse&) = delete;
    InUse& operator=(const InUse&) = delete;
    ~InUse() { flag_ = false; }

  private:
    std::atomic<bool>& flag_;
};

/// On several threads, while what is reported only rises.
class ShareOfAssets {
  public:
    ShareOfAssets(const Progress& progress, std::size_t assets)
        : progress_(progress), assets_(static_cast<double>(assets)) {}
    bool goOn(bool another = false) {
        const std::lock_guard lock(mutex_);
        if (another) ++done_;
        return !progress_.stopped(done_ / assets_);
    }

  private:
    const Progress& progress_;
    std::mutex mutex_;
    double assets_, done_ = 0;
};

std::vector<const Tag*> tagsIn(const Study& study, const Expression& expression, AssetId asset) {
    std::vector<const Tag*> out;
    for (const TagId id : tagsOf(study, expression, asset)) out.push_back(study.catalog().tag(id));
    return out;
}

}  // namespace

/// Tags are read once and kept; what else there is comes from the study each time.
class KeptFigures::Reading : public Inputs {
  public:
    Reading(const Catalog& catalog, AssetId asset, OnAsset& on, std::unique_ptr<Inputs> study)
        : catalog_(catalog), asset_(asset), on_(on), study_(std::move(study)) {}
    Result<Signal> role(const std::string& name) override {
        const Tag* tag = catalog_.tagInRole(asset_, name);
        return tag ? kept(tag->id, [&] { return study_->role(name); }) : study_->role(name);
    }
    Result<Signal> path(const std::string& name) override {
        const auto tag = catalog_.tagAt(name);
        return tag ? kept(tag->id, [&] { return study_->path(name); }) : study_->path(name);
    }
    Result<std::vector<TimeRange>> track(const std::string& name) override { return study_->track(name); }
    Result<LimitLines> limits(const std::string& set, const std::string& tag, bool isPath) override {
        return study_->limits(set, tag, isPath);
    }
    Result<Signal> trust(const std::string& tag, bool isPath) override { return study_->trust(tag, isPath); }

  private:
    template <typename Read>
    Result<Signal> kept(TagId tag, Read read) {
        if (const auto known = on_.tags.find(tag); known != on_.tags.end()) return known->second;
        auto signal = read();
        if (signal) on_.tags.emplace(tag, *signal);
        return signal;
    }
    const Catalog& catalog_;
    AssetId asset_;
    OnAsset& on_;
    std::unique_ptr<Inputs> study_;
};

bool KeptFigures::fits(Study& study, const FleetExpression& fleet) const {
    constexpr double kKnot = sizeof(Instant) + sizeof(double);
    double bytes = 0;
    for (const auto& [asset, expression] : fleet.byAsset) {
        if (expression.lookBack > kKeptLookBack) return false;
        double most = 0;
        for (const Tag* tag : tagsIn(study, expression, asset.id)) {
            const double knots = static_cast<double>(study.reader(tag->id).whole(tag->id).count);
            bytes += knots * kKnot;
            most = std::max(most, knots);
        }
        bytes += windowsIn(*expression.root) * most * kKnot;
    }
    return bytes <= static_cast<double>(mostBytes_);
}

void KeptFigures::forgetWhatChanged(Study& study, const FleetExpression& fleet, Which which) {
    const TimeRange record = study.record();
    const std::string of = fmt::format("{} {} {} {} {}", study.path(), record.from.time_since_epoch().count(),
                                       record.to.time_since_epoch().count(), static_cast<int>(which),
                                       study.setting(kSoundDataOnly));
    if (of != of_) assets_.clear();
    of_ = of;
    StudyMarks marks(study);
    for (const auto& [asset, expression] : fleet.byAsset) {
        OnAsset& on = assets_[asset.id];
        std::map<std::string, std::string> now;
        const auto mark = [&](const Tag& tag) {
            return fmt::format("{} {}", tag.id, marks.ofSamples(tag, Which::Mended));
        };
        for (const std::string& role : expression.roles)
            if (const Tag* tag = study.catalog().tagInRole(asset.id, role)) now["@" + role] = mark(*tag);
        for (const std::string& path : expression.paths)
            if (const auto tag = study.catalog().tagAt(path)) now[path] = mark(*tag);
        const bool changed = std::any_of(now.begin(), now.end(), [&](const auto& named) {
            const auto was = on.marks.find(named.first);
            return was != on.marks.end() && was->second != named.second;
        });
        if (changed) on = OnAsset{};
        on.marks.merge(now);
        on.figures.begin();
    }
}

void KeptFigures::shrink() {
    std::size_t bytes = 0;
    for (auto& [asset, on] : assets_) {
        std::size_t tags = 0;
        for (const auto& [path, signal] : on.tags) tags += signal.times.size() * 16;
        const std::size_t share = mostBytes_ / assets_.size();
        // A rule over other tags came before: they are read again when it comes back.
        if (tags > share) on = OnAsset{}, tags = 0;
        on.figures.shrinkTo(share - tags);
        bytes += tags + on.figures.bytes();
    }
    bytes_ = bytes;
}

Result<std::optional<std::vector<ValueOverTime>>> KeptFigures::evaluate(Study& study,
                                                                        const FleetExpression& fleet,
                                                                        Which which,
                                                                        const Progress& progress) {
    using Kept = std::optional<std::vector<ValueOverTime>>;
    if (!fits(study, fleet) || inUse_.exchange(true)) return Kept{};
    const InUse use(inUse_);
    forgetWhatChanged(study, fleet, which);
    const TimeRange record = study.record();
    StudyPool pool(study.path());
    std::vector<ValueOverTime> out;
    ShareOfAssets share(progress, fleet.byAsset.size());
    Ahead<Result<ValueOverTime>> values;
    for (const auto& [asset, expression] : fleet.byAsset)
        values.start([&, &on = assets_[asset.id], &asset = asset,
                      &expression = expression]() -> Result<ValueOverTime> {
            Reading inputs(study.catalog(), asset.id, on,
                           pool.inputs(asset.id, {record.from - kKeptLookBack, record.to}, which));
            auto value =
                evaluateKeeping(expression, inputs, record, on.figures, [&](double) { return share.goOn(); });
            if (!value) return value.error();
            ValueOverTime one{std::move(*value), {record}};
            for (const Tag* tag : tagsIn(study, expression, asset.id)) {
                const auto signal = inputs.path(tag->path());
                if (!signal) return signal.error();
                one.covered = intersect(one.covered, coverageOf(*signal, record));
            }
            return one;
        });
    for (std::size_t i = 0; i < fleet.byAsset.size(); ++i) {
        auto value = values.take();
        if (!value) return value.error();
        out.push_back(std::move(*value));
        if (!share.goOn(true)) return Error::cancelled();
    }
    shrink();
    return Kept(std::move(out));
}

}  // namespace jacinth
