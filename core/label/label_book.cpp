#include "core/label/label_book.h"

namespace jacinth {

LabelBook firstLabelBook() {
    return {{"fault", "Something is wrong with the equipment", "#8A4FA3", 'f', false},
            {"process", "The process left its path, the equipment is sound", "#B07A00", 'p', false},
            {"sensor fault", "The sensor, not the process", "#4A5A6A", 's', false},
            {"normal", "An example of nothing being wrong", "#0E8A76", 'n', true}};
}

const LabelKind* findKind(const LabelBook& book, const std::string& name) {
    for (const LabelKind& kind : book)
        if (kind.name == name) return &kind;
    return nullptr;
}

}  // namespace jacinth
