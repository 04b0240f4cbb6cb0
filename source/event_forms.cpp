#include "source/event_forms.h"

#include <algorithm>

#include "core/base/text.h"

namespace jacinth {

const std::vector<EventForm>& eventForms() {
    static const std::vector<EventForm> all{
        {"failures", "Failures", "time", "", true, false, ""},
        {"work-orders", "Work orders", "opened", "closed", true, false, "text"},
        {"readings", "Check readings", "time", "", false, true, "value"},
        {"log", "Shift log", "time", "", false, false, "text"},
        {"alarms", "Source alarms", "start", "end", true, false, "text"},
        {"stops", "Stops", "start", "end", true, false, ""},
        {"batches", "Batch list", "start", "end", true, false, ""},
    };
    return all;
}

bool hasColumnsOf(const std::string& kind, const std::vector<std::string>& header) {
    const auto has = [&](std::string_view name) {
        return std::ranges::any_of(header,
                                   [&](const std::string& h) { return lowerCase(trimmed(h)) == name; });
    };
    for (const EventForm& form : eventForms()) {
        if (kind != form.kind) continue;
        return has(form.start) && (!*form.end || has(form.end)) && (!*form.required || has(form.required)) &&
               (!form.asset || has("asset")) && (!form.tag || has("tag"));
    }
    return false;
}

const std::vector<std::string>& eventKinds() {
    static const std::vector<std::string> kinds = [] {
        std::vector<std::string> out;
        for (const EventForm& f : eventForms()) out.emplace_back(f.kind);
        return out;
    }();
    return kinds;
}

}  // namespace jacinth
