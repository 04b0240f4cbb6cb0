// The score of the current rule, and what it is proved under.
#pragma once

#include <array>

#include "app/base/ui.h"
#include "app/prove/prove_state.h"

namespace jacinth::app {

class ScoreFields : public QWidget {
    Q_OBJECT
  public:
    ScoreFields(Session& session, ProveState& state);

  private:
    void build();
    void buildTerms(QVBoxLayout* side);
    void fill();
    bool takeTimes();  ///< false where one of them cannot be
    void takeMasks();
    void showScore();
    void alignFigures();
    void showWords();
    Session& session_;
    ProveState& state_;
    struct Figure {
        QLabel *value, *what;
    };
    std::array<Figure, 4> figures_;
    QLineEdit *most_, *least_, *join_, *offDelay_, *masks_;
    QComboBox* failures_;
    QPushButton* prove_;
    QLabel* proved_;
};

}  // namespace jacinth::app
