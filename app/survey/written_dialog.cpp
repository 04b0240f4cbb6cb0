#include "app/survey/written_dialog.h"

#include <QDialogButtonBox>

#include "app/base/asset_choice.h"
#include "app/base/id_variant.h"
#include "app/survey/written_kinds.h"
#include "store/tracks.h"
#include "work/label/written.h"

namespace jacinth::app {
namespace {

/// A row of fields that can be hidden as a whole.
QWidget* hidableRow(QVBoxLayout* to, std::initializer_list<std::pair<const char*, QWidget*>> fields) {
    auto* holder = new QWidget;
    auto* column = new QVBoxLayout(holder);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(6);
    for (const auto& [words, field] : fields) addRow(column, words, field);
    to->addWidget(holder);
    return holder;
}

}  // namespace

QString writtenText(Session& session, const WrittenKind& kind, const Span& s) {
    QString text = QString::fromStdString(factText(s.facts, kind.fact));
    if (text.isEmpty() && kind.track == std::string(track_kind::kFailures))
        text = QString::fromStdString(factText(s.facts, "kind"));
    if (const Tag* tag = session.tag(s.tag); tag && kind.track == std::string(track_kind::kReadings))
        text = QString::fromStdString(tag->name) + " reads " +
               valueText(factNumber(s.facts, "value"), QString::fromStdString(tag->unit));
    if (s.end > s.start) text += " (" + QString::fromStdString(sayDuration(s.end - s.start)) + ")";
    return text;
}

WrittenDialog::WrittenDialog(Session& session, const Span& span, int kind, QWidget* parent)
    : QDialog(parent), session_(session), span_(span) {
    setObjectName("writtenDialog");
    setWindowTitle(span.id ? "What was written" : "Write down");
    setMinimumWidth(440);
    makeFields(kind);
    arrange();
    connect(asset_, &QComboBox::currentIndexChanged, this, &WrittenDialog::fillTags);
    connect(kind_, &QComboBox::currentIndexChanged, this, &WrittenDialog::follow);
    fillTags();
    if (const int at = tag_->findData(toVariant(span.tag)); at >= 0) tag_->setCurrentIndex(at);
    follow();
}

void WrittenDialog::makeFields(int kind) {
    QStringList kinds;
    for (const WrittenKind& k : kWrittenKinds) kinds << k.words;
    kind_ = makeChoice("writtenDialogKind", "Kind", kinds);
    kind_->setCurrentIndex(kind);
    asset_ = makeChoice("writtenDialogAsset", "Asset", {});
    asset_->addItem("the plant", QVariant::fromValue<qlonglong>(0));
    fillAssetChoice(asset_, session_, 1);
    asset_->setCurrentIndex(std::max(0, asset_->findData(toVariant(span_.asset))));
    tag_ = makeChoice("writtenDialogTag", "Tag", {});
    from_ = new MomentField(session_, "writtenDialogFrom", "When");
    to_ = new MomentField(session_, "writtenDialogTo", "Until");
    from_->setMoment(span_.start);
    to_->setMoment(std::max(span_.end, span_.start));
    text_ = makeField("writtenDialogText", "Text");
    value_ = makeField("writtenDialogValue", "Reading");
    by_ = makeField("writtenDialogBy", "By");
    const WrittenKind& k = kWrittenKinds[static_cast<std::size_t>(kind)];
    text_->setText(QString::fromStdString(factText(span_.facts, k.fact)));
    if (span_.facts.contains("value"))
        value_->setText(QString::number(factNumber(span_.facts, "value"), 'g', 10));
    const std::string by = factText(span_.facts, "by");
    by_->setText(QString::fromStdString(!span_.id    ? session_.study().who()
                                        : by.empty() ? factText(span_.facts, "author")
                                                     : by));
}

void WrittenDialog::arrange() {
    auto* column = new QVBoxLayout(this);
    column->setSpacing(6);
    addRow(column, "kind", kind_);
    addRow(column, "asset", asset_);
    addRow(column, "when", from_);
    endRow_ = hidableRow(column, {{"until", to_}});
    readingRow_ = hidableRow(column, {{"tag", tag_}, {"reads", value_}});
    textRow_ = hidableRow(column, {{"text", text_}});
    addRow(column, "by", by_);
    trouble_ = makeLabel("", "bad");
    trouble_->setObjectName("writtenDialogTrouble");
    trouble_->setWordWrap(true);
    column->addWidget(trouble_);
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Ok | QDialogButtonBox::Cancel);
    buttons->button(QDialogButtonBox::Ok)->setText(span_.id ? "Change" : "Write down");
    buttons->button(QDialogButtonBox::Ok)->setObjectName("writtenDialogOk");
    column->addWidget(buttons);
    connect(buttons, &QDialogButtonBox::accepted, this, &WrittenDialog::take);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
}

void WrittenDialog::fillTags() {
    tag_->clear();
    for (const Tag& t : session_.study().catalog().tags())
        if (t.asset == idFrom<AssetId>(asset_->currentData()) && t.kind != TagKind::State)
            tag_->addItem(QString::fromStdString(t.name), toVariant(t.id));
}

void WrittenDialog::follow() {
    const WrittenKind& k = kWrittenKinds[static_cast<std::size_t>(kind_->currentIndex())];
    const bool reading = k.track == std::string(track_kind::kReadings);
    endRow_->setVisible(k.lasts);
    readingRow_->setVisible(reading);
    textRow_->setVisible(!reading);
    adjustSize();
}

void WrittenDialog::take() {
    const WrittenKind& k = kWrittenKinds[static_cast<std::size_t>(kind_->currentIndex())];
    const bool reading = k.track == std::string(track_kind::kReadings);
    const auto from = from_->moment(), to = to_->moment();
    bool number = true;
    const double value = value_->text().trimmed().replace(',', '.').toDouble(&number);
    QString trouble;
    if (!from)
        trouble = "“" + from_->text() + "” is not a time; write it like 4 Apr 2026 06:00.";
    else if (k.lasts && (!to || *to < *from))
        trouble = "The end is not a time at or after the beginning.";
    else if (reading && !number)
        trouble = "The reading is not a number.";
    else if (reading && tag_->currentIndex() < 0)
        trouble = "A check reading needs a tag with numbers.";
    else if (!reading && text_->text().trimmed().isEmpty())
        trouble = "Write what happened.";
    trouble_->setText(trouble);
    if (!trouble.isEmpty()) return;
    Span span = span_;
    span.asset = idFrom<AssetId>(asset_->currentData());
    span.tag = reading ? idFrom<TagId>(tag_->currentData()) : TagId();
    // A moment shown to the minute stays as exact as it was unless it was typed again.
    if (from_->isModified() || !span_.id) span.start = *from;
    span.end = !k.lasts ? span.start : to_->isModified() || !span_.id ? *to : std::max(span_.end, span.start);
    if (reading)
        span.facts["value"] = value;
    else
        span.facts[k.fact] = text_->text().trimmed().toStdString();
    if (!by_->text().trimmed().isEmpty())
        span.facts[k.track == std::string(track_kind::kLog) ? "author" : "by"] =
            by_->text().trimmed().toStdString();
    if (store(span, kind_->currentIndex())) accept();
}

bool WrittenDialog::store(const Span& span, int kind) {
    const WrittenKind& k = kWrittenKinds[static_cast<std::size_t>(kind)];
    bool kept = false;
    const bool written = session_.tryChange([&] {
        kept = session_.report(
            keepWritten(session_.study(), span, {k.track, k.name, QString(k.words).toLower().toStdString()}));
    });
    return written && kept;
}

}  // namespace jacinth::app
