#include "app/base/ui.h"

#include <QScrollArea>

#include <QFrame>
#include <QPainter>
#include <QStyle>

namespace jacinth::app {

QLabel* makeLabel(const QString& text, const char* role) {
    auto* label = new QLabel(text);
    // Names from the record stand in labels: no name is taken for markup.
    label->setTextFormat(Qt::PlainText);
    label->setProperty("role", role);
    return label;
}

QPushButton* makeButton(const QString& text, const QString& name, bool primary) {
    auto* button = new QPushButton(text);
    button->setObjectName(name);
    button->setAccessibleName(text);
    button->setProperty("primary", primary);
    button->setFixedHeight(28);
    return button;
}

QLineEdit* makeField(const QString& name, const QString& accessible) {
    auto* field = new QLineEdit;
    field->setObjectName(name);
    field->setAccessibleName(accessible);
    field->setFixedHeight(26);
    return field;
}

QComboBox* makeChoice(const QString& name, const QString& accessible, const QStringList& items) {
    auto* box = new QComboBox;
    box->setObjectName(name);
    box->setAccessibleName(accessible);
    box->addItems(items);
    box->setFixedHeight(26);
    return box;
}

void refillChoice(QComboBox* box, const QString& all, const QStringList& items) {
    const QString before = box->currentIndex() > 0 ? box->currentText() : QString();
    const QSignalBlocker quiet(box);
    box->clear();
    box->addItem(all);
    box->addItems(items);
    box->setCurrentIndex(before.isEmpty() ? 0 : std::max(0, box->findText(before)));
}

QWidget* makeRule() {
    auto* line = new QFrame;
    line->setFrameShape(QFrame::HLine);
    line->setFrameShadow(QFrame::Plain);
    line->setFixedHeight(9);
    line->setStyleSheet(
        "color: palette(mid); border: none; border-top: 1px solid rgba(128,120,110,70); margin-top: 4px;");
    return line;
}

QWidget* makeFields(const QString& words, std::initializer_list<std::pair<QString, QWidget*>> fields,
                    int least) {
    auto* row = new QWidget;
    auto* line = new QHBoxLayout(row);
    line->setContentsMargins(0, 0, 0, 0);
    line->setSpacing(6);
    auto* label = makeLabel(words, "second");
    label->setMinimumWidth(least);
    line->addWidget(label);
    for (const auto& [after, field] : fields) {
        line->addWidget(field, 1);
        if (!after.isEmpty()) line->addWidget(makeLabel(after, "second"));
    }
    return row;
}

QPushButton* makeMoreButton(const QString& name, QWidget* more, const std::function<void(bool)>& first) {
    auto* button = makeButton("More settings", name);
    button->setCheckable(true);
    button->setProperty("pill", true);
    button->setFixedHeight(22);
    more->hide();
    QObject::connect(button, &QPushButton::toggled, more, [button, more, first](bool on) {
        if (first) first(on);
        more->setVisible(on);
        button->setText(on ? "Less" : "More settings");
    });
    return button;
}

void addRow(QVBoxLayout* to, const QString& words, QWidget* field) {
    auto* row = new QHBoxLayout;
    row->setSpacing(8);
    auto* label = makeLabel(words, "second");
    label->setMinimumWidth(104);
    label->setBuddy(field);
    row->addWidget(label);
    row->addWidget(field, 1);
    to->addLayout(row);
}

void alignRowLabels(const QWidget* on) {
    QList<QLabel*> labels = on->findChildren<QLabel*>();
    erase_if(labels, [](const QLabel* label) { return !label->buddy(); });
    int widest = 0;
    for (const QLabel* label : labels) widest = std::max(widest, label->sizeHint().width());
    for (QLabel* label : labels) {
        setRole(label, "second");
        label->setMinimumWidth(widest);
    }
}

void showFigures(QLabel* label, const std::vector<std::pair<QString, QString>>& figures,
                 const QString& below) {
    QString text = "<table width='100%'>";
    for (const auto& [words, value] : figures)
        text += QString("<tr><td>%1</td><td align=right>%2</td></tr>")
                    .arg(words.toHtmlEscaped(), value.toHtmlEscaped());
    label->setTextFormat(Qt::RichText);
    label->setText(text + "</table>" + below.toHtmlEscaped());
}

namespace {
/// As wide inside as outside: what would be wider is squeezed, not cut off.
class Scrolled : public QScrollArea {
  protected:
    void resizeEvent(QResizeEvent* e) override {
        if (widget()) widget()->setFixedWidth(viewport()->width());
        QScrollArea::resizeEvent(e);
    }
};
}  // namespace

QWidget* makeScrolled(QWidget* inside) {
    auto* area = new Scrolled;
    area->setObjectName("scrolled");
    area->setFrameShape(QFrame::NoFrame);
    area->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    area->setWidgetResizable(true);
    area->setFocusPolicy(Qt::NoFocus);
    area->setWidget(inside);
    return area;
}

QString plainTip(const QString& text) {
    return text.isEmpty() ? text : "<qt>" + text.toHtmlEscaped().replace('\n', "<br>") + "</qt>";
}

void setRole(QLabel* label, const char* role) {
    label->setProperty("role", role);
    label->style()->unpolish(label);
    label->style()->polish(label);
}

void markWrong(QLineEdit* field, bool wrong, const QString& why) {
    field->setProperty("wrong", wrong);
    field->setToolTip(plainTip(why));
    field->style()->unpolish(field);
    field->style()->polish(field);
}

std::vector<std::string> rolesIn(const QString& text) {
    std::vector<std::string> out;
    for (const QString& part : text.split(',', Qt::SkipEmptyParts)) {
        QString name = part.trimmed();
        if (name.startsWith('@')) name.remove(0, 1);
        if (name.size() > 1 && name.startsWith('`') && name.endsWith('`'))
            name = name.mid(1, name.size() - 2).replace("``", "`");
        if (!name.isEmpty()) out.push_back(name.toStdString());
    }
    return out;
}

}  // namespace jacinth::app
