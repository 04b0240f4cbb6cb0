#include "source/import_samples.h"

#include "source/text_record.h"

namespace jacinth {

Result<Zone> zoneOfTimes(const Study* study, const LayoutHints& hints) {
    if (!hints.zone.empty()) return Zone::named(hints.zone);
    return Zone::named(study ? study->setting("zone", "UTC") : "UTC");
}

Result<ImportResult> importSamples(Study& study, const TextSource& source, const LayoutHints& hints,
                                   const Progress& progress) {
    const auto zone = zoneOfTimes(&study, hints);
    if (!zone) return zone.error();
    const auto record = TextRecord::open(source, hints, *zone);
    if (!record) return record.error();
    auto result = importRecord(study, **record, {{}, {}, hints.units}, progress);
    if (result && !hints.names.isEmpty()) study.setSetting(kNamesSetting, nameSettingsText(hints.names));
    if (result && !hints.zone.empty() && study.setting("zone").empty()) study.setSetting("zone", hints.zone);
    return result;
}

}  // namespace jacinth
