// What can be done with the current rule and the rules that are kept: kept, renamed, removed, versions taken
// up again, examples, files.
#pragma once

#include <QMenu>

#include "app/prove/prove_state.h"

namespace jacinth::app {

/// Asks for a name and words, and keeps the current rule as a version with its proof.
void keepCurrentRule(Session& session, ProveState& state, QWidget* on);
void fillRuleMenu(QMenu& menu, Session& session, ProveState& state, QWidget* on);

void renameKept(Session& session, ProveState& state, const std::string& name, QWidget* on);
/// Asks first. Undo brings it back.
void removeKept(Session& session, const std::string& name, QWidget* on);

}  // namespace jacinth::app
