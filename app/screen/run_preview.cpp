#include "app/screen/run_preview.h"

#include <QPointer>

#include "app/base/ui.h"
#include "store/tracks.h"
#include "work/runs/run_figures.h"

namespace jacinth::app {
namespace {

constexpr int kPause = 400;  // ms without a key before all runs are gone through

QString fitWords(const RunTable& table) {
    const auto fit = std::count_if(table.rows.begin(), table.rows.end(), [](const RunTable::Row& row) {
        const auto* truth = std::get_if<Truth>(&row.cells.front());
        return truth && *truth == Truth::True;
    });
    return QString("true for %1 of %2 runs").arg(fit).arg(table.rows.size());
}

/// `Kiln 3 run 12: 84.2 °C`.
QString valueWords(const Study& study, const RunTable& table) {
    const auto& column = table.columns.front();
    const Span& run = table.rows.front().run;
    const Asset* asset = study.catalog().asset(run.asset);
    const std::string text = cellText(table.rows.front().cells.front(), column.type);
    return QString("%1 run %2: %3 %4")
        .arg(QString::fromStdString(asset ? asset->name : ""),
             QString::number(factNumber(run.facts, "number")),
             QString::fromStdString(text.empty() ? "no value" : text),
             QString::fromStdString(text.empty() ? "" : column.unit));
}

}  // namespace

RunPreview::RunPreview(Session& session, ExpressionEditor* editor, std::function<TrackId()> track)
    : session_(session), editor_(editor), track_(std::move(track)), soon_(new QTimer(this)) {
    setObjectName(editor->objectName() + "Preview");
    setTextFormat(Qt::PlainText);
    setWordWrap(true);
    hide();
    soon_->setSingleShot(true);
    soon_->setInterval(kPause);
    connect(soon_, &QTimer::timeout, this, &RunPreview::calculate);
    connect(editor, &QPlainTextEdit::textChanged, this, &RunPreview::look);
    connect(&session, &Session::studyChanged, this, &RunPreview::look);
    connect(&session.view(), &ViewState::selectionChanged, this, &RunPreview::look);
}

void RunPreview::look() {
    soon_->stop();
    const bool written = !editor_->text().isEmpty();
    const bool fits = written && editor_->checked().has_value();
    setVisible(written);
    setRole(this, written && !fits ? "bad" : "second");
    setText(!written ? QString() : fits ? QString("…") : editor_->toolTip());
    if (fits) soon_->start();
}

void RunPreview::calculate() {
    const QPointer<RunPreview> self(this);
    session_.runJob(this, objectName(), "Calculating the expression",
                    [self, text = editor_->text().toStdString(), track = track_(), in = session_.view().run(),
                     which = session_.view().which()](JobContext& job) -> std::function<void()> {
                        const std::vector<Span> runs = job.study.tracks().spans(track);
                        QString words = "no runs yet";
                        if (!runs.empty()) {
                            const auto current = std::find_if(runs.begin(), runs.end(),
                                                              [&](const Span& s) { return s.id == in; });
                            const Span& one = current == runs.end() ? runs.front() : *current;
                            auto table = runFigures(job.study, {one}, {{"", text}}, which, job.progress);
                            if (table && table->columns.front().type == ValueType::Condition)
                                table = runFigures(job.study, runs, {{"", text}}, which, job.progress);
                            if (!table) return {};
                            const auto& column = table->columns.front();
                            if (column.error) {
                                words = QString::fromStdString(column.error->message);
                            } else if (column.type == ValueType::Condition) {
                                words = fitWords(*table);
                            } else {
                                words = valueWords(job.study, *table);
                            }
                        }
                        return [self, words] {
                            if (self) self->setText(words);
                        };
                    });
}

}  // namespace jacinth::app
