// The editor of expressions: colours, completion, help for the function at the caret, the place of an error.
#pragma once

#include <QCompleter>
#include <QPlainTextEdit>
#include <QStandardItemModel>
#include <QSyntaxHighlighter>

#include "app/base/session.h"
#include "core/expr/complete.h"

namespace jacinth::app {

class ExpressionEditor : public QPlainTextEdit {
    Q_OBJECT
  public:
    /// Over one or more lines; a single line ends with Enter and gives `accepted`.
    enum class Lines { Few, One };
    explicit ExpressionEditor(Session& session, Lines lines = Lines::Few, QWidget* parent = nullptr);
    QString text() const { return toPlainText().trimmed(); }
    /// What the expression may name; those of the current asset unless set. Asked for when it is needed.
    void setNames(std::function<Names()> names);
    /// Compiles what stands there for the names it may use, underlines an error and shows it as tool tip.
    /// An empty text is neither an error nor an expression.
    std::optional<Expression> checked();
    /// The error of a calculation, in the same way.
    void showError(const Error& error);
    /// Underlines from this column (in characters, from 1) to the end of the word; 0 for none.
    void setErrorColumn(int column);
    QCompleter* completer() const { return completer_; }

  signals:
    void accepted();                        ///< Enter in a single line
    void editingFinished();                 ///< Enter, or the focus goes elsewhere
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
    void showExample();  ///< with a role of the study, unless somebody gave another
    int caret() const;   ///< in characters
    const Names& names();

    Session& session_;
    QString example_;
    Colours* colours_;
    QCompleter* completer_;
    QStandardItemModel* offers_;
    int from_ = 0;
    Lines lines_;
    std::function<Names()> namesFrom_;
    std::optional<std::pair<AssetId, Names>> names_;  ///< of an asset; made again when the study changes
};

}  // namespace jacinth::app
