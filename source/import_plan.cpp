#include "source/import_plan.h"

#include <algorithm>
#include <filesystem>

#include "core/base/text.h"
#include "source/import_events.h"
#include "source/recipe.h"

namespace jacinth {
namespace {

namespace fs = std::filesystem;

/// `Shift_Log.csv.gz` → `shift-log`.
std::string plainStem(const std::string& path) {
    fs::path name = fs::path(path).filename();
    if (lowerCase(name.extension().string()) == ".gz") name = name.stem();
    std::string out = lowerCase(name.stem().string());
    std::ranges::replace_if(
        out, [](char c) { return c == '_' || c == ' '; }, '-');
    return out;
}

}  // namespace

std::string eventKindOf(const std::string& path) {
    const std::string stem = plainStem(path);
    for (const std::string& kind : eventKinds()) {
        if (stem != kind && !stem.starts_with(kind + "-") && !stem.ends_with("-" + kind)) continue;
        const auto source = TextSource::at(path);
        const auto parts = source ? partsOf(*source, {}) : Result<TextParts>(source.error());
        const auto head =
            parts ? readHead(path, *parts, {}, 1, NoRows::Allowed) : Result<TextHead>(parts.error());
        if (head && hasColumnsOf(kind, head->header)) return kind;
    }
    return {};
}

Result<std::vector<PlannedFile>> planImport(const std::vector<std::string>& paths) {
    std::vector<PlannedFile> out;
    for (const std::string& path : paths) {
        const auto files = filesAt(path);
        if (!files) return files.error();
        for (const std::string& file : *files) out.push_back({file, eventKindOf(file)});
    }
    std::ranges::stable_sort(out, [](const PlannedFile& a, const PlannedFile& b) {
        return a.eventKind.empty() && !b.eventKind.empty();
    });
    return out;
}

}  // namespace jacinth
