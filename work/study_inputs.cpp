#include "work/study_inputs.h"

#include <fmt/format.h>

#include <algorithm>

namespace jacinth {

StudyInputs::StudyInputs(Study& study, std::int64_t asset, TimeRange range, Duration lookBack, Which which)
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
    const Summary whole = study_.samples().whole(tag.id);
    const Series series = study_.read(tag, {range_.from - lookBack_, range_.to}, which_);
    Signal signal = signalOf(series, tag.bridging(), whole.count ? whole.firstTime : range_.from);
    signal.states = tag.states;
    return read_.emplace(tag.id, std::move(signal)).first->second;
}

std::vector<TimeRange> StudyInputs::covered() const {
    std::vector<TimeRange> out{range_};
    for (const auto& [tag, signal] : read_) {
        std::vector<TimeRange> known;
        for (std::size_t i = 0; i < signal.times.size(); ++i) {
            if (!std::isfinite(signal.values[i])) continue;
            const bool last = i + 1 == signal.times.size();
            if (!signal.stepped && (last || !std::isfinite(signal.values[i + 1]))) continue;
            const TimeRange part{signal.times[i], last ? range_.to : signal.times[i + 1]};
            if (!known.empty() && known.back().to == part.from)
                known.back().to = part.to;
            else
                known.push_back(part);
        }
        out = intersect(out, known);
    }
    return out;
}

Result<FleetExpression> compileForFleet(const Study& study, const std::string& text,
                                        const std::string& onlyAsset) {
    const Catalog& catalog = study.catalog();
    FleetExpression out;
    Error error{"the study has no assets yet"};
    std::size_t most = 0;
    for (const Asset& asset : catalog.assets()) {
        if (!onlyAsset.empty() && asset.name != onlyAsset) continue;
        const Names names = catalog.namesFor(asset.id);
        const auto expression = compileExpression(text, names);
        if (!expression) {
            if (names.roles.size() > most) {
                most = names.roles.size();
                error = expression.error();
            }
            continue;
        }
        const bool owner = std::any_of(expression->paths.begin(), expression->paths.end(),
                                       [&](const std::string& p) { return p.starts_with(asset.name + "/"); });
        if (expression->roles.empty() && !expression->paths.empty() && !owner) continue;
        out.byAsset.emplace_back(asset, *expression);
    }
    if (out.byAsset.empty() && !onlyAsset.empty() && !catalog.assetNamed(onlyAsset))
        return Error{fmt::format("`{}` is no asset", onlyAsset)};
    if (out.byAsset.empty()) return error;
    return out;
}

}  // namespace jacinth
