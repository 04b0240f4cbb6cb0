#include "work/base/study_inputs.h"

#include <fmt/format.h>

#include <algorithm>

#include "core/expr/covered_time.h"
#include "store/derived_catalog.h"
#include "store/judgement.h"
#include "store/tracks.h"
#include "store/trust_marks.h"
#include "work/limits/limit_lines.h"

namespace jacinth {
namespace {

constexpr Duration kLongestReach = 30 * kDay;  // a longer line is not followed beyond what is asked for

bool usableBefore(const SeriesView& s, Instant t) {
    for (std::size_t i = 0; i < s.size() && s.times[i] <= t; ++i)
        if (s.usable(i)) return true;
    return false;
}

}  // namespace

StudyInputs::StudyInputs(Study& study, AssetId asset, TimeRange range, Duration lookBack, Which which)
    : study_(study), asset_(asset), range_(range), lookBack_(lookBack), which_(which) {}

Result<Signal> StudyInputs::role(const std::string& name) {
    const Tag* tag = study_.catalog().tagInRole(asset_, name);
    if (!tag) return Error{fmt::format("no tag has the role `{}` on this asset", name)};
    return read(*tag);
}

Result<Signal> StudyInputs::path(const std::string& name) {
    const auto tag = study_.catalog().tagAt(name);
    if (!tag) return tag.error();
    return read(*tag);
}

Result<Signal> StudyInputs::read(const Tag& tag) {
    const auto known = read_.find(tag.id);
    if (known != read_.end()) return known->second;
    const Summary whole = study_.reader(tag.id).whole(tag.id);
    // Lines reach over bad samples to the next usable one; what is held comes from the last usable one.
    const Bridging bridging = tag.bridging();
    const Duration gap =
        bridging.kind == TagKind::Continuous ? std::min(bridging.longestGap, kLongestReach) : Duration{};
    const TimeRange wanted{range_.from - lookBack_ - gap, range_.to + gap};
    Series series = study_.readForFigures(tag, wanted, which_);
    for (Duration back = kDay; bridging.kind != TagKind::Continuous && whole.count > 0 &&
                               wanted.from > whole.firstTime && !usableBefore(series, wanted.from);
         back *= 8) {
        series =
            study_.readForFigures(tag, {std::max(whole.firstTime, wanted.from - back), wanted.to}, which_);
        if (wanted.from - back <= whole.firstTime) break;
    }
    Signal signal = signalOf(std::move(series), bridging, whole.count ? whole.firstTime : range_.from);
    signal.states = tag.states;
    return read_.emplace(tag.id, std::move(signal)).first->second;
}

Result<std::vector<TimeRange>> StudyInputs::track(const std::string& name) {
    const auto found = study_.tracks().named(name);
    if (!found) return Error{fmt::format("`{}` is not a track of this study", name)};
    std::vector<TimeRange> out;
    for (const Span& s : study_.tracks().spans(found->id))
        if (s.asset == asset_ || !s.asset) out.push_back({s.start, s.end});
    return out;
}

Result<LimitLines> StudyInputs::limits(const std::string& name, const std::string& tag, bool isPath) {
    const auto newest = study_.judgement().limitSetNamed(name);
    if (!newest) return Error{fmt::format("`{}` is not a set of golden limits of this study", name)};
    AssetId asset = asset_;
    std::string role = tag;
    if (isPath) {
        const auto found = study_.catalog().tagAt(tag);
        if (!found) return found.error();
        asset = found->asset;
        role = found->role;
    } else if (const Tag* named = study_.catalog().tagInRole(asset, tag)) {
        role = named->role;
    }
    if (!newest->byRole.contains(role)) return Error{fmt::format("`{}` has no limits in `{}`", tag, name)};
    return limitLines(study_, name, role, asset, {range_.from - lookBack_, range_.to}, which_);
}

Result<Signal> StudyInputs::trust(const std::string& name, bool isPath) {
    TagId id;
    if (isPath) {
        const auto found = study_.catalog().tagAt(name);
        if (!found) return found.error();
        id = found->id;
    } else if (const Tag* tag = study_.catalog().tagInRole(asset_, name)) {
        id = tag->id;
    } else {
        return Error{fmt::format("no tag has the role `{}` on this asset", name)};
    }
    Signal out;
    out.stepped = true;
    out.states = trustGradesOf(study_);
    const auto codeOf = [&](const std::string& grade) {
        const auto at = std::find(out.states.begin(), out.states.end(), grade);
        // One that the site no longer has counts as not judged, which is the last.
        return static_cast<double>(std::min(at, out.states.end() - 1) - out.states.begin());
    };
    const TimeRange wanted{range_.from - lookBack_, range_.to + kNanosecond};
    std::vector<Instant> times{wanted.from};
    std::vector<double> values{codeOf(kNotJudged)};
    for (const GradedStretch& s : trustOf(study_, id, wanted, which_)) {
        if (times.back() == s.range.from) times.pop_back(), values.pop_back();
        times.push_back(s.range.from), values.push_back(codeOf(s.grade));
        times.push_back(s.range.to), values.push_back(codeOf(kNotJudged));
    }
    out.times = std::move(times);
    out.values = std::move(values);
    out.begins = wanted.from;
    return out;
}

std::vector<std::string> trustGradesOf(const Study& study) {
    std::vector<std::string> out = trustSettingsOf(study).trust;
    out.push_back(kNotJudged);
    return out;
}

std::vector<TagId> tagsOf(const Study& study, const Expression& expression, AssetId asset) {
    std::vector<TagId> out;
    const auto add = [&](TagId id) {
        if (std::find(out.begin(), out.end(), id) == out.end()) out.push_back(id);
    };
    for (const std::string& role : expression.roles)
        if (const Tag* t = study.catalog().tagInRole(asset, role)) add(t->id);
    for (const std::string& path : expression.paths)
        if (const auto t = study.catalog().tagAt(path)) add(t->id);
    return out;
}

namespace {

/// What every asset's expressions may name, read once.
class NamesOfStudy {
  public:
    explicit NamesOfStudy(const Study& study) : study_(study) {
        shared_.trust = trustGradesOf(study);
        for (const Track& t : study.tracks().all()) shared_.tracks.push_back(t.name);
        for (const auto& [name, roles] : study.judgement().limitNames()) shared_.limits[name] = roles;
        for (const TagId id : study.derived().tags())
            if (const Tag* t = study.catalog().tag(id)) derived_[t->asset].insert(t->role);
    }
    Names of(AssetId asset) const {
        Names names = study_.catalog().namesFor(asset);
        names.trust = shared_.trust;
        names.tracks = shared_.tracks;
        names.limits = shared_.limits;
        if (const auto own = derived_.find(asset); own != derived_.end()) names.derived = own->second;
        return names;
    }

  private:
    const Study& study_;
    Names shared_;
    std::map<AssetId, decltype(Names::derived)> derived_;
};

}  // namespace

Names namesIn(const Study& study, AssetId asset) {
    return NamesOfStudy(study).of(asset);
}

std::vector<TimeRange> coverageOf(const Signal& signal, TimeRange range) {
    const KnownTime known = knownTimeOf(signal);
    const TimeRange whole{known.whole.from, std::min(known.whole.to, range.to)};
    if (whole.to <= whole.from) return {};
    return intersect({range}, subtract({whole}, known.gaps));
}

std::vector<TimeRange> StudyInputs::covered() const {
    std::vector<TimeRange> out{range_};
    for (const auto& [tag, signal] : read_) out = intersect(out, coverageOf(signal, range_));
    return out;
}

std::vector<std::string> FleetExpression::warnings() const {
    std::vector<std::pair<std::string, std::vector<std::string>>> found;
    for (const auto& [asset, expression] : byAsset)
        for (const Error& w : expression.warnings) {
            auto known =
                std::find_if(found.begin(), found.end(), [&](const auto& f) { return f.first == w.message; });
            if (known == found.end()) known = found.insert(found.end(), {w.message, {}});
            if (known->second.empty() || known->second.back() != asset.name)
                known->second.push_back(asset.name);
        }
    std::vector<std::string> out;
    for (const auto& [message, assets] : found)
        out.push_back(assets.size() == byAsset.size()
                          ? message
                          : fmt::format("{} ({})", message, fmt::join(assets, ", ")));
    return out;
}

FleetNames::FleetNames(const Study& study, std::string onlyAsset, std::vector<AssetId> asked)
    : study_(study), onlyAsset_(std::move(onlyAsset)), asked_(std::move(asked)) {
    const NamesOfStudy names(study);
    for (const Asset& asset : study.catalog().assets())
        if (onlyAsset_.empty() || asset.name == onlyAsset_) names_.emplace_back(asset, names.of(asset.id));
}

bool FleetNames::isAsked(const Asset& asset) const {
    return std::find(asked_.begin(), asked_.end(), asset.id) != asked_.end();
}

namespace {

bool owns(const Asset& asset, const Expression& expression) {
    return std::any_of(expression.paths.begin(), expression.paths.end(),
                       [&](const std::string& p) { return p.starts_with(asset.name + "/"); });
}

}  // namespace

Result<FleetExpression> FleetNames::compile(const std::string& text) const {
    FleetExpression out;
    std::vector<std::pair<Asset, Expression>> others;  // that name no tag of theirs
    Error error{"the study has no assets yet"};
    std::size_t most = 0;
    for (const auto& [asset, names] : names_) {
        const auto expression = compileExpression(text, names);
        if (!expression) {
            if (names.roles.size() > most) {
                most = names.roles.size();
                error = expression.error();
            }
            out.without.emplace_back(asset, expression.error().message);
        } else if (expression->roles.empty() && !expression->paths.empty() && !owns(asset, *expression)) {
            others.emplace_back(asset, *expression);
        } else {
            out.byAsset.emplace_back(asset, *expression);
        }
    }
    const auto asked = [&](const auto& on) { return isAsked(on.first); };
    if (std::none_of(out.byAsset.begin(), out.byAsset.end(), asked) &&
        std::any_of(others.begin(), others.end(), asked)) {
        std::swap(out.byAsset, others);
        std::erase_if(out.byAsset, [&](const auto& on) { return !asked(on); });
    }
    for (const auto& [asset, expression] : others)
        out.without.emplace_back(asset, "the text names no tag of this asset");
    const Catalog& catalog = study_.catalog();
    if (out.byAsset.empty() && !onlyAsset_.empty() && !catalog.assetNamed(onlyAsset_))
        return catalog.assetCalled(onlyAsset_).error();
    if (out.byAsset.empty() && !others.empty()) return Error{"the text names no tag of this asset", 1};
    if (out.byAsset.empty()) return error;
    return out;
}

}  // namespace jacinth
