#include "core/label/label_book.h"

namespace jacinth {

LabelBook firstLabelBook() {
    return {{"bearing wear", "Vibration rises with no change of load", "#8A4FA3", 'b', false},
            {"air path", "Air flow lost or bed not even", "#B07A00", 'a', false},
            {"over-temperature", "Hotter than the recipe asks for", "#C4427A", 't', false},
            {"flame loss", "Burner lost its flame", "#1F5FA8", 'f', false},
            {"sensor fault", "The sensor, not the process", "#4A5A6A", 's', false},
            {"normal", "An example of nothing being wrong", "#0E8A76", 'n', true}};
}

const LabelKind* findKind(const LabelBook& book, const std::string& name) {
    for (const LabelKind& kind : book)
        if (kind.name == name) return &kind;
    return nullptr;
}

}  // namespace jacinth
