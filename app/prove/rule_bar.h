// The current rule, above every page of Prove: which one it is, its text, the numbers of its settings, where
// it is true.
#pragma once

#include "app/base/ui.h"
#include "app/language/expression_editor.h"
#include "app/language/expression_preview.h"
#include "app/prove/prove_state.h"

namespace jacinth::app {

class RuleBar : public QWidget {
    Q_OBJECT
  public:
    RuleBar(Session& session, ProveState& state);
    ExpressionEditor* editor() const { return editor_; }
    /// Where it is true over the time in view, soon.
    void showPreview();

  private:
    void buildHead();
    void fillRules();
    void fillFields();
    void showState();
    void showHelp();
    void showReach();
    void choose(int row);
    void openMenu();
    void fitEditor();
    void keep();
    Session& session_;
    ProveState& state_;
    QComboBox* rules_;
    QPushButton *keep_, *more_;
    QLabel *words_, *help_;
    QString aboutCaret_;  ///< the function that it is in
    QString notes_;       ///< warnings about the rule
    ExpressionEditor* editor_;
    ExpressionPreview* preview_;
    QTimer* typing_;
    QHBoxLayout *head_, *settings_;
    std::vector<std::pair<std::string, QLineEdit*>> fields_;
    bool filling_ = false;
    bool nothingFailed_ = false;  ///< on the assets that the rule is about
};

}  // namespace jacinth::app
