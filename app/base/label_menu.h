// Labels from what lies elsewhere: a menu of the kinds of the label book.
#pragma once

#include <QMenu>
#include <functional>

#include "app/base/session.h"
#include "app/base/tables.h"
#include "store/tracks.h"

namespace jacinth::app {

/// A submenu with the kinds of the label book, and “not named yet”: a label over each of the spans, with
/// where it came from. The spans are asked for when a kind is chosen.
void addLabelMenu(QMenu& menu, const QString& title, Session& session,
                  std::function<std::vector<Span>()> spans, const QString& from);

/// The kinds alone, at the pointer: a label over each of these spans.
void openLabelMenu(QWidget* on, Session& session, const std::vector<Span>& spans, const QString& from);

/// A command of a table's menu that opens that one, over what `spans` says then.
void addLabelCommand(QTableView* table, const QString& words, Session& session,
                     std::function<std::vector<Span>()> spans, const QString& from);

}  // namespace jacinth::app
