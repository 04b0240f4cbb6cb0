#include "source/record_source.h"

namespace jacinth {

TagKinds::TagKinds(const Catalog& catalog) {
    for (const Tag& tag : catalog.tags()) kinds_[tag.path()] = tag.kind;
}

std::optional<TagKind> TagKinds::of(const std::string& path) const {
    const auto known = kinds_.find(path);
    return known == kinds_.end() ? std::nullopt : std::optional(known->second);
}

bool TagKinds::learn(const RecordBlock& block) {
    bool again = false;
    for (const auto& tag : block.tags) {
        if (tag->known) continue;
        const auto known = kinds_.find(tag->path);
        if (known != kinds_.end()) {
            again = again || known->second == TagKind::State || tag->kind == TagKind::State;
        } else if (tag->kind) {
            kinds_[tag->path] = *tag->kind;
            again = again || tag->kind == TagKind::State;
        }
    }
    return again;
}

}  // namespace jacinth
