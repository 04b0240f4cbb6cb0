// Trust and sign-off of the stretch in hand: what is judged there, and painting it.
#pragma once

#include <QComboBox>
#include <QPushButton>

#include "app/base/session.h"
#include "app/base/ui.h"
#include "work/mend/trust.h"

namespace jacinth::app {

class TrustFields : public QWidget {
    Q_OBJECT
  public:
    explicit TrustFields(Session& session);
    void show(TagId tag, TimeRange stretch);  ///< of which stretch

  private:
    std::vector<TagId> tags() const;  ///< that are painted together
    void paint();
    void fill(QComboBox* box, const std::vector<std::string>& grades);

    Session& session_;
    TagId tag_;
    TimeRange stretch_{};
    QComboBox *trust_, *signOff_, *of_;
    QPushButton* paint_;
    QLabel* says_;
};

}  // namespace jacinth::app
