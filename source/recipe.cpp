#include "source/recipe.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <filesystem>
#include <nlohmann/json.hpp>

#include "core/base/parse_json.h"
#include "source/import_samples.h"
#include "store/imports.h"

namespace jacinth {
namespace {

namespace fs = std::filesystem;

struct Field {
    const char* name;
    std::string LayoutHints::*text;
};
constexpr std::array<Field, 12> kFields{{{"time", &LayoutHints::timeColumn},
                                         {"timeFormat", &LayoutHints::timeFormat},
                                         {"separator", &LayoutHints::separator},
                                         {"decimal", &LayoutHints::decimal},
                                         {"encoding", &LayoutHints::encoding},
                                         {"noValue", &LayoutHints::noValue},
                                         {"tag", &LayoutHints::tagColumn},
                                         {"value", &LayoutHints::valueColumn},
                                         {"quality", &LayoutHints::qualityColumn},
                                         {"titleLines", &LayoutHints::titleLines},
                                         {"zone", &LayoutHints::zone},
                                         {"asset", &LayoutHints::asset}}};

/// A link is followed only where it leads to a file of the folder itself.
bool isInside(const fs::path& root, const fs::path& path) {
    std::error_code trouble;
    const fs::path real = fs::canonical(path, trouble);
    return !trouble && std::mismatch(root.begin(), root.end(), real.begin(), real.end()).first == root.end();
}

bool isTextFile(const fs::path& path) {
    fs::path name = path.filename();
    if (lowerCase(name.extension().string()) == ".gz") name = name.stem();
    const std::string kind = lowerCase(name.extension().string());
    return kind == ".csv" || kind == ".txt" || kind == ".tsv";
}

}  // namespace

std::string recipeToJson(const LayoutHints& hints) {
    nlohmann::json out = nlohmann::json::object();
    for (const Field& f : kFields)
        if (!(hints.*f.text).empty()) out[f.name] = hints.*f.text;
    if (hints.longForm) out["form"] = *hints.longForm ? "long" : "wide";
    return out.dump();
}

LayoutHints recipeFromJson(const std::string& text) {
    LayoutHints out;
    const auto j = parseJson(text);
    if (!j.is_object()) return out;
    for (const Field& f : kFields)
        if (j.contains(f.name) && j[f.name].is_string()) out.*f.text = j[f.name];
    if (j.contains("form")) out.longForm = j["form"] == "long";
    return out;
}

std::vector<std::pair<std::string, LayoutHints>> recipes(Study& study) {
    std::vector<std::pair<std::string, LayoutHints>> out;
    for (const auto& [name, body] : study.imports().recipes()) out.emplace_back(name, recipeFromJson(body));
    return out;
}

void saveRecipe(Study& study, const std::string& name, const LayoutHints& hints) {
    study.change("save recipe " + name, "", {{"recipe", recipeToJson(hints)}},
                 [&] { study.imports().putRecipe(name, recipeToJson(hints)); });
}

Result<LayoutHints> recipeNamed(Study& study, const std::string& name) {
    std::vector<std::string> known;
    for (const auto& [other, hints] : recipes(study)) {
        if (other == name) return hints;
        known.push_back(other);
    }
    return Error{fmt::format("there is no recipe `{}`{}", name,
                             known.empty() ? "" : fmt::format("; there are {}", fmt::join(known, ", ")))};
}

std::string headerOf(const std::string& path) {
    const auto source = TextSource::at(path);
    if (!source) return {};
    const auto coding = codingOf(*source);
    if (!coding) return {};
    constexpr std::size_t kEnough = 256 << 10;
    std::string start;
    TextStream stream(*source, *coding);
    while (start.size() < kEnough) {
        const auto more = stream.read(start, kEnough - start.size());
        if (!more || !*more) break;
    }
    std::string_view text = withoutLines(start, titleLinesIn(start));
    text.remove_prefix(std::min(text.find_first_not_of("\r\n"), text.size()));
    return std::string(text.substr(0, text.find('\n')));
}

Result<std::vector<std::string>> filesAt(const std::string& path) {
    std::error_code trouble;
    if (!fs::is_directory(path, trouble)) {
        if (!fs::exists(path, trouble)) return Error{fmt::format("there is no file {}", path)};
        return std::vector<std::string>{path};
    }
    std::vector<std::string> out;
    const fs::path root = fs::canonical(path, trouble);
    if (trouble) return Error{fmt::format("{} cannot be read: {}", path, trouble.message())};
    for (const auto& entry :
         fs::recursive_directory_iterator(path, fs::directory_options::skip_permission_denied, trouble))
        if (entry.is_regular_file(trouble) && isTextFile(entry.path()) && isInside(root, entry.path()))
            out.push_back(entry.path().string());
    std::sort(out.begin(), out.end());
    if (out.empty())
        return Error{fmt::format("{} holds no text files (csv, txt, tsv, or packed with gz)", path)};
    return out;
}

}  // namespace jacinth
