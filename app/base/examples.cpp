#include "app/base/examples.h"

namespace jacinth::app {

std::vector<std::string> restStatesOf(const Tag& tag) {
    std::vector<std::string> out;
    for (const QString& state :
         QString::fromStdString(factText(tag.facts, "rest states")).split(',', Qt::SkipEmptyParts))
        out.push_back(state.trimmed().toStdString());
    return out;
}

QString exampleCondition(const Session& session) {
    const Tag* found = nullptr;
    for (const Tag& t : session.study().catalog().tags())
        if (t.kind == TagKind::State && t.states.size() > 1 &&
            (!found || (restStatesOf(*found).empty() && !restStatesOf(t).empty())))
            found = &t;
    if (!found) return "@mode is \"Running\"";
    const auto rest = restStatesOf(*found);
    return QString("@%1 is not \"%2\"")
        .arg(QString::fromStdString(found->role),
             QString::fromStdString(rest.empty() ? found->states.front() : rest.back()));
}

QString exampleRole(Session& session) {
    const Tag* found = nullptr;
    for (const Tag& t : session.study().catalog().tags()) {
        if (t.kind == TagKind::State) continue;
        if (!found || (t.asset == session.view().asset() && found->asset != t.asset)) found = &t;
    }
    return found ? QString::fromStdString(found->role) : QString("temp");
}

}  // namespace jacinth::app
