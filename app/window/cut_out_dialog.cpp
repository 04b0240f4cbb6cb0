#include "app/window/cut_out_dialog.h"

#include <QDialogButtonBox>
#include <QPointer>
#include <QPushButton>

#include "app/base/file_dialogs.h"
#include "app/base/ui.h"

namespace jacinth::app {

CutOutDialog::CutOutDialog(Session& session, std::vector<SpanId> chosen, QWidget* parent)
    : QDialog(parent), session_(session), chosen_(std::move(chosen)) {
    setObjectName("cutOutDialog");
    setWindowTitle("Cut out the data of labels");
    setMinimumWidth(520);
    build();
}

void CutOutDialog::build() {
    auto* column = new QVBoxLayout(this);
    column->setSpacing(6);
    which_ = makeChoice("cutWhich", "Which marks", {"all that have a name"});
    if (!chosen_.empty()) which_->addItem(QString("the %1 chosen").arg(chosen_.size()));
    format_ = makeChoice("cutFormat", "Format", {"CSV, a file a label", "HDF5, a file a part"});
    every_ = makeField("cutEvery", "Step");
    every_->setPlaceholderText("the tags' own, or like 30s");
    margin_ = makeField("cutMargin", "Margin");
    margin_->setText("0s");
    split_ = makeChoice("cutSplit", "Split", {"not split", "by run", "by asset"});
    shares_ = makeField("cutShares", "Shares of train, validation and test");
    shares_->setText("70,15,15");
    seed_ = makeField("cutSeed", "Seed");
    seed_->setText("1");
    balance_ = new QCheckBox("as many of each kind in each part");
    balance_->setObjectName("cutBalance");
    folder_ = makeField("cutFolder", "New or empty folder");
    auto* browse = makeButton("Choose…", "cutChoose");
    addRow(column, "Marks", which_);
    addRow(column, "Format", format_);
    addRow(column, "Step", every_);
    addRow(column, "More before and after", margin_);
    addRow(column, "Split without leakage", split_);
    addRow(column, "Train, validation, test in %", shares_);
    addRow(column, "Seed", seed_);
    column->addWidget(balance_);
    addRow(column, "Into the folder", folder_);
    column->addWidget(browse, 0, Qt::AlignRight);
    said_ = makeLabel("Data is mended or as logged as the window shows it. A manifest says what was done.",
                      "second");
    said_->setObjectName("cutSaid");
    said_->setWordWrap(true);
    column->addWidget(said_);
    alignRowLabels(this);
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Close);
    auto* write = makeButton("Cut out", "cutWrite", true);
    buttons->addButton(write, QDialogButtonBox::ActionRole);
    column->addWidget(buttons);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::accept);
    connect(write, &QPushButton::clicked, this, &CutOutDialog::write);
    connect(browse, &QPushButton::clicked, this, &CutOutDialog::choose);
    const auto follow = [this] {
        for (QLineEdit* f : {shares_, seed_}) f->setEnabled(split_->currentIndex() > 0);
    };
    connect(split_, &QComboBox::currentIndexChanged, this, follow);
    follow();
}

void CutOutDialog::choose() {
    const QString path = askFolder(this, "A new or empty folder");
    if (!path.isEmpty()) folder_->setText(path);
}

Result<CutOutSpec> CutOutDialog::spec() const {
    CutOutSpec out;
    if (which_->currentIndex() == 1) out.labels = chosen_;
    out.format = format_->currentIndex() == 1 ? CutFormat::Hdf5 : CutFormat::Csv;
    if (!every_->text().trimmed().isEmpty()) {
        const auto every = parseDuration(every_->text().toStdString());
        if (!every || *every <= Duration::zero()) return Error{"the step is like 30s or 1m"};
        out.every = *every;
    }
    const auto margin = parseDuration(margin_->text().toStdString());
    if (!margin || *margin < Duration::zero()) return Error{"the margin is like 10m or 0s"};
    out.margin = *margin;
    if (split_->currentIndex() > 0) out.split = split_->currentIndex() == 1 ? SplitBy::Run : SplitBy::Asset;
    const auto shares = readShares(shares_->text().toStdString());
    if (out.split && !shares) return shares.error();
    if (shares) out.shares = *shares;
    bool good = false;
    out.seed = seed_->text().toULongLong(&good);
    if (!good) return Error{"a seed is a whole number"};
    out.balance = balance_->isChecked();
    out.which = session_.view().which();
    return out;
}

void CutOutDialog::write() {
    const auto asked = spec();
    const QString folder = folder_->text().trimmed();
    if (!asked) return said_->setText(QString::fromStdString(asked.error().message));
    if (folder.isEmpty()) return said_->setText("Say into which folder.");
    said_->setText("Cutting out…");
    // It goes on when the dialog is closed: it serves the session.
    const QPointer<QLabel> said = said_;
    const auto tell = [said, session = &session_](const QString& words) {
        if (said) said->setText(words);
        emit session->notified(words);
    };
    session_.runJob(
        &session_, "cut out", "Cutting out labels",
        [spec = *asked, folder, tell](JobContext& job) -> std::function<void()> {
            const auto done = cutOut(job.study, folder.toStdString(), spec, job.progress);
            return [done, folder, tell] {
                if (!done) return tell(QString::fromStdString(done.error().message));
                QStringList words{QString("%1 labels cut out into %2").arg(done->labels).arg(folder)};
                if (!done->leftOut.empty())
                    words << QString("%1 left out: the manifest says why").arg(done->leftOut.size());
                for (const std::string& what : done->missing) words << QString::fromStdString(what);
                tell(words.join(", "));
            };
        });
}

}  // namespace jacinth::app
