// Tags of numbers with a tick each: those of one asset first, then the same role elsewhere, then the rest.
#pragma once

#include <QLineEdit>
#include <QListWidget>
#include <vector>

#include "app/base/session.h"

namespace jacinth::app {

class TagPicker : public QWidget {
    Q_OBJECT
  public:
    TagPicker(Session& session, const QString& name);
    /// What can be chosen for `of`, which is left out itself. Ticks stay where their tags do.
    void fill(TagId of, const std::vector<TagId>& alsoLeftOut = {});
    void setChosen(const std::vector<TagId>& tags);
    std::vector<TagId> chosen() const;  ///< in the order of the list

  signals:
    void changed();

  private:
    void filter();
    Session& session_;
    QLineEdit* filter_;
    QListWidget* list_;
};

}  // namespace jacinth::app
