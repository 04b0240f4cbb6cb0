// The editor of expressions: colours, completion, help for the function at the caret, the place of an error.
#pragma once

#include <QCompleter>
#include <QPlainTextEdit>
#include <QStandardItemModel>
#include <QSyntaxHighlighter>

#include "app/shell/session.h"
#include "core/expr/complete.h"

namespace jacinth::app {

class RuleEditor : public QPlainTextEdit {
    Q_OBJECT
  public:
    explicit RuleEditor(Session& session, QWidget* parent = nullptr);
    /// Underlines from this column (in characters, from 1) to the end of the word; 0 for none.
    void setErrorColumn(int column);
    QCompleter* completer() const { return completer_; }

  signals:
    void helpChanged(const QString& text);  ///< of the function at the caret; empty for none

  protected:
    /// Tab takes the first of what is offered, Enter the chosen one, Ctrl+Space asks for offers.
    void keyPressEvent(QKeyEvent* event) override;
    void focusOutEvent(QFocusEvent* event) override;
    bool focusNextPrevChild(bool next) override;  ///< not while something is offered: Tab takes it
    /// Tags dragged from the plant panel become their paths.
    bool canInsertFromMimeData(const QMimeData* source) const override;
    void insertFromMimeData(const QMimeData* source) override;

  private:
    class Colours;
    void offer(bool asked);
    void take(const QModelIndex& offered);
    void showHelp();
    int caret() const;  ///< in characters
    const Names& names();

    Session& session_;
    Colours* colours_;
    QCompleter* completer_;
    QStandardItemModel* offers_;
    int from_ = 0;
    std::optional<std::pair<std::int64_t, Names>> names_;  ///< of an asset; made anew when the study changes
};

}  // namespace jacinth::app
