#include "core/series/quality.h"

namespace jacinth {

const char* qualityName(Quality quality) {
    switch (quality) {
        case Quality::Good:
            return "good";
        case Quality::Uncertain:
            return "uncertain";
        case Quality::Bad:
            return "bad";
        case Quality::Missing:
            return "missing";
    }
    return "";
}

}  // namespace jacinth
