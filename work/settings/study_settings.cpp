#include "work/settings/study_settings.h"

#include <nlohmann/json.hpp>

#include "store/history.h"

namespace jacinth {

Status setZone(Study& study, const std::string& zone) {
    const auto known = Zone::named(zone);
    if (!known) return known.error();
    WriteBatch transaction(study);
    const std::string before = study.setting("zone", "UTC");
    study.setSetting("zone", zone);
    study.history().enterInLedger("time zone " + zone, "", {{"before", before}});
    transaction.commit();
    return Done{};
}

void setSoundDataOnly(Study& study, bool on) {
    WriteBatch transaction(study);
    study.setSetting(kSoundDataOnly, on ? "yes" : "no");
    study.history().enterInLedger(on ? "only sound data" : "uncertain data counts", "",
                                  nlohmann::json::object());
    transaction.commit();
}

}  // namespace jacinth
