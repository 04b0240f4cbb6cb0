// The field a rule is written in: coloured as it is read, with the error where it is.
#pragma once

#include <QPlainTextEdit>
#include <QSyntaxHighlighter>

#include "app/shell/session.h"

namespace jacinth::app {

class RuleEditor : public QPlainTextEdit {
    Q_OBJECT
  public:
    explicit RuleEditor(Session& session, QWidget* parent = nullptr);
    /// Underlines from this column (in characters, from 1) to the end of the word; 0 for none.
    void setErrorColumn(int column);

  private:
    class Colours;
    Session& session_;
    Colours* colours_;
};

}  // namespace jacinth::app
