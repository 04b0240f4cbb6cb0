// Options that gather assets by a fact.
#pragma once

#include <CLI/CLI.hpp>
#include <memory>

#include "work/base/asset_groups.h"

namespace jacinth::cli {

struct GroupOptions {
    std::string by, only;
};
/// `--group-by FACT` and `--only FACT=VALUE`.
std::shared_ptr<GroupOptions> addGroupOptions(CLI::App& command);
/// Refuses a fact or value that no asset has, and an `--only` by another fact than `--group-by`.
Grouping groupingFrom(const GroupOptions& options, const Study& study);

}  // namespace jacinth::cli
