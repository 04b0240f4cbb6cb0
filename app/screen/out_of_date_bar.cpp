#include "app/screen/out_of_date_bar.h"

#include <QHBoxLayout>

#include "app/base/ui.h"
#include "store/judgement.h"
#include "work/limits/up_to_date.h"

namespace jacinth::app {

OutOfDateBar::OutOfDateBar(Session& session, ScreenState& state) : session_(session), state_(state) {
    setObjectName("outOfDate");
    setAttribute(Qt::WA_StyledBackground);
    says_ = makeLabel("", "");
    says_->setObjectName("outOfDateSays");
    says_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
    again_ = makeButton("Make them again", "makeAgain");
    again_->setToolTip(
        "New versions of the limits from the same golden runs, and every run screened: one step");
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(10, 4, 4, 4);
    row->addWidget(says_, 1);
    row->addWidget(again_);
    connect(again_, &QPushButton::clicked, this, &OutOfDateBar::makeAgainNow);
    connect(&session, &Session::studyChanged, this, &OutOfDateBar::refresh);
    connect(&state, &ScreenState::trackChanged, this, &OutOfDateBar::refresh);
    refresh();
}

void OutOfDateBar::refresh() {
    const Study& study = session_.study();
    const TrackId track = state_.trackId();
    QStringList words;
    if (track) {
        for (const auto& [set, says] : limitsOutOfDate(study, track))
            words << QString("Limits %1: %2").arg(QString::fromStdString(set), QString::fromStdString(says));
        if (const std::string says = excursionsOutOfDate(study, track); !says.empty())
            words << "Excursions: " + QString::fromStdString(says);
    }
    says_->setText(words.join(" · "));
    says_->setToolTip(plainTip(words.join("\n")));
    setVisible(!words.isEmpty());
}

void OutOfDateBar::makeAgainNow() {
    again_->setEnabled(false);
    const Which which = session_.view().which();
    session_.runJob(
        this, "makeAgain", "Making limits and excursions again",
        [this, track = state_.trackId(), which](JobContext& job) -> std::function<void()> {
            auto made = makeAgain(job.study, track, which, job.progress);
            return [this, made = std::move(made)] {
                session_.study().refresh();
                session_.announceChange();
                if (!session_.report(made)) return;
                QStringList limits;
                for (const std::string& title : made->limits) limits << QString::fromStdString(title);
                emit session_.notified(
                    (limits.isEmpty() ? QString() : "Limits " + limits.join(", ") + " made; ") +
                    QString::fromStdString(made->cleared));
            };
        },
        true, [this] { again_->setEnabled(true); });
}

}  // namespace jacinth::app
