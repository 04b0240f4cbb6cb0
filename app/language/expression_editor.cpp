#include "app/language/expression_editor.h"

#include <QAbstractItemView>
#include <QFontDatabase>
#include <QMimeData>
#include <QTreeView>

#include "app/base/examples.h"
#include "app/base/ui.h"
#include "core/expr/ast.h"
#include "store/judgement.h"
#include "work/base/study_inputs.h"

namespace jacinth::app {

/// Colours by the language's own tokens, so what is coloured as a role is read as one.
class ExpressionEditor::Colours : public QSyntaxHighlighter {
  public:
    Colours(QTextDocument* document, Session& session) : QSyntaxHighlighter(document), session_(session) {}
    int errorColumn = 0;

  protected:
    void highlightBlock(const QString& line) override {
        const Theme& theme = session_.theme();
        const QList<uint> characters = line.toUcs4();
        // Column in characters → place in UTF-16.
        std::vector<int> place{0};
        for (const uint c : characters) place.push_back(place.back() + (c > 0xFFFF ? 2 : 1));
        const auto at = [&](int column) {
            return place[static_cast<std::size_t>(
                std::clamp(column, 0, static_cast<int>(characters.size())))];
        };
        for (const Token& t : tokenize(line.toStdString())) {
            QTextCharFormat format;
            switch (t.kind) {
                case TokenKind::Role:
                case TokenKind::Path:
                    format.setForeground(theme.traces[1]);
                    break;
                case TokenKind::Number:
                case TokenKind::DurationWord:
                    format.setForeground(theme.traces[3]);
                    break;
                case TokenKind::Keyword:
                    format.setForeground(theme.traces[2]);
                    break;
                case TokenKind::Word:
                    format.setForeground(theme.traces[0]);
                    break;
                case TokenKind::Text:
                    format.setForeground(theme.traces[5]);
                    break;
                case TokenKind::Comment:
                    format.setForeground(theme.second);
                    break;
                case TokenKind::Unknown:
                    format.setForeground(theme.accent);
                    break;
                default:
                    format.setForeground(theme.ink);
                    break;
            }
            const int start = at(t.column - 1), end = at(t.column - 1 + t.length);
            setFormat(start, end - start, format);
        }
        // The error's column counts over the whole text, line ends included.
        const int first =
            static_cast<int>(document()->toPlainText().left(currentBlock().position()).toUcs4().size());
        const int inLine = errorColumn - 1 - first;
        if (errorColumn > 0 && inLine >= 0 && inLine <= characters.size()) {
            int end = inLine;
            while (end < characters.size() && (QChar::isLetterOrNumber(characters[end]) ||
                                               characters[end] == '_' || characters[end] == '@'))
                ++end;
            const int start = inLine == characters.size() ? std::max(0, inLine - 1) : inLine;
            QTextCharFormat format;
            format.setForeground(theme.accent);
            format.setUnderlineStyle(QTextCharFormat::WaveUnderline);
            format.setUnderlineColor(theme.accent);
            setFormat(at(start), std::max(1, at(end) - at(start)), format);
        }
    }

  private:
    Session& session_;
};

ExpressionEditor::ExpressionEditor(Session& session, Lines lines, QWidget* parent)
    : QPlainTextEdit(parent),
      session_(session),
      colours_(new Colours(document(), session)),
      completer_(new QCompleter(this)),
      offers_(new QStandardItemModel(this)),
      lines_(lines) {
    setObjectName("ruleEditor");
    setAccessibleName("Rule");
    QFont font = QFontDatabase::systemFont(QFontDatabase::FixedFont);
    font.setPixelSize(13);
    setStyleSheet("font-size: 13px;");
    setFont(font);
    setTabChangesFocus(true);
    setFixedHeight(64);
    if (lines == Lines::One) {
        setFixedHeight(28);
        setLineWrapMode(QPlainTextEdit::NoWrap);
        setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
        setVerticalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
        document()->setDocumentMargin(3);
        setProperty("oneLine", true);
    }
    showExample();
    connect(&session, &Session::studyChanged, this, &ExpressionEditor::showExample);
    completer_->setWidget(this);
    completer_->setModel(offers_);
    completer_->setCompletionMode(QCompleter::UnfilteredPopupCompletion);
    completer_->setMaxVisibleItems(9);
    auto* popup = new QTreeView;
    popup->setObjectName("ruleOffers");
    popup->setHeaderHidden(true);
    popup->setRootIsDecorated(false);
    popup->setUniformRowHeights(true);
    popup->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    popup->setFocusPolicy(Qt::NoFocus);
    completer_->setPopup(popup);
    // A list that is shown, not a window that takes the keys: they go on to the text.
    popup->setWindowFlags(Qt::ToolTip);
    popup->setAttribute(Qt::WA_ShowWithoutActivating);
    connect(completer_, qOverload<const QModelIndex&>(&QCompleter::activated), this, &ExpressionEditor::take);
    connect(this, &QPlainTextEdit::cursorPositionChanged, this, &ExpressionEditor::showHelp);
    connect(&session, &Session::studyChanged, this, [this] { names_.reset(); });
    connect(&session, &Session::themeChanged, this, [this] { colours_->rehighlight(); });
}

int ExpressionEditor::caret() const {
    return static_cast<int>(toPlainText().left(textCursor().position()).toUcs4().size());
}

void ExpressionEditor::setNames(std::function<Names()> names) {
    namesFrom_ = std::move(names);
    names_.reset();
}

const Names& ExpressionEditor::names() {
    const AssetId asset = session_.view().asset();
    if (!names_ || names_->first != asset)
        names_ = std::pair(asset, namesFrom_ ? namesFrom_() : namesIn(session_.study(), asset));
    return names_->second;
}

std::optional<Expression> ExpressionEditor::checked() {
    setErrorColumn(0);
    setToolTip({});
    if (text().isEmpty()) return {};
    const auto compiled = compileExpression(toPlainText().toStdString(), names());
    if (compiled) return *compiled;
    showError(compiled.error());
    return {};
}

void ExpressionEditor::showError(const Error& error) {
    setErrorColumn(std::max(1, error.column));
    setToolTip(plainTip(QString::fromStdString(error.message)));
}

void ExpressionEditor::offer(bool asked) {
    const Completions found = completeAt(toPlainText().toStdString(), caret(), names());
    const int length = caret() - found.from;
    QAbstractItemView* popup = completer_->popup();
    if (found.offers.empty() || (!asked && length < 1)) return popup->hide();
    from_ = found.from;
    offers_->clear();
    for (const Completion& c : found.offers) {
        auto* says = new QStandardItem(QString::fromStdString(c.says));
        says->setForeground(session_.theme().second);
        offers_->appendRow({new QStandardItem(QString::fromStdString(c.insert)), says});
    }
    auto* tree = static_cast<QTreeView*>(popup);
    const Theme& theme = session_.theme();
    tree->setStyleSheet(
        QString("QTreeView { background: %1; color: %2; border: 1px solid %3; padding: 0; }"
                "QTreeView::item { padding: 2px 6px; }"
                "QTreeView::item:selected { background: %4; color: %2; }")
            .arg(theme.plot.name(), theme.ink.name(), theme.hairline.name(), theme.softAccent.name()));
    completer_->setCompletionPrefix({});
    tree->resizeColumnToContents(0);
    tree->resizeColumnToContents(1);
    // Under the beginning of the word, as wide as its lines ask for.
    QTextCursor word = textCursor();
    word.movePosition(QTextCursor::Left, QTextCursor::MoveAnchor, length);
    QRect where = cursorRect(word);
    where.setWidth(std::clamp(tree->columnWidth(0) + tree->columnWidth(1) + 24, 240, 680));
    completer_->complete(where);
    popup->setCurrentIndex({});  // nothing is chosen until the user does
}

void ExpressionEditor::take(const QModelIndex& offered) {
    if (!offered.isValid()) return;
    const QString insert = offered.sibling(offered.row(), 0).data().toString();
    QTextCursor cursor = textCursor();
    const QString before = toPlainText().left(cursor.position());
    const QList<uint> kept = before.toUcs4().mid(0, from_);
    const auto start =
        QString::fromUcs4(reinterpret_cast<const char32_t*>(kept.constData()), kept.size()).size();
    cursor.setPosition(static_cast<int>(start), QTextCursor::KeepAnchor);
    cursor.insertText(insert);
    setTextCursor(cursor);
    completer_->popup()->hide();
}

void ExpressionEditor::keyPressEvent(QKeyEvent* event) {
    QAbstractItemView* popup = completer_->popup();
    if (popup->isVisible()) {
        const QModelIndex chosen = popup->currentIndex();
        if (event->key() == Qt::Key_Tab) return take(chosen.isValid() ? chosen : popup->model()->index(0, 0));
        if ((event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter) && chosen.isValid())
            return take(chosen);
        if (event->key() == Qt::Key_Escape) return popup->hide();
        if (event->key() == Qt::Key_Down || event->key() == Qt::Key_Up) {
            const int by = event->key() == Qt::Key_Down ? 1 : -1;
            const int rows = popup->model()->rowCount();
            const int row = chosen.isValid() ? (chosen.row() + by + rows) % rows : by > 0 ? 0 : rows - 1;
            return popup->setCurrentIndex(popup->model()->index(row, 0));
        }
    }
    if (lines_ == Lines::One && (event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter)) {
        popup->hide();
        emit accepted();
        emit editingFinished();
        return;
    }
    if (event->key() == Qt::Key_Space && event->modifiers() & Qt::ControlModifier) return offer(true);
    const int before = document()->revision();
    QPlainTextEdit::keyPressEvent(event);
    if (document()->revision() != before)
        offer(false);
    else if (popup->isVisible() && !event->text().isEmpty())
        popup->hide();
}

void ExpressionEditor::focusOutEvent(QFocusEvent* event) {
    if (event->reason() != Qt::PopupFocusReason && !completer_->popup()->isActiveWindow())
        completer_->popup()->hide();
    QPlainTextEdit::focusOutEvent(event);
    if (event->reason() != Qt::PopupFocusReason) emit editingFinished();
}

bool ExpressionEditor::focusNextPrevChild(bool next) {
    return !completer_->popup()->isVisible() && QPlainTextEdit::focusNextPrevChild(next);
}

bool ExpressionEditor::canInsertFromMimeData(const QMimeData* source) const {
    // The clipboard of some platforms has nothing at all to look at when it is empty.
    return source && (source->hasFormat(kTagMime) || QPlainTextEdit::canInsertFromMimeData(source));
}

void ExpressionEditor::insertFromMimeData(const QMimeData* source) {
    if (!source) return;
    if (!source->hasFormat(kTagMime)) {
        if (lines_ == Lines::Few) return QPlainTextEdit::insertFromMimeData(source);
        return insertPlainText(source->text().simplified());
    }
    if (const Tag* tag = session_.tag(TagId(source->data(kTagMime).toLongLong())))
        insertPlainText(QString::fromStdString(quotedPath(tag->path())));
}

void ExpressionEditor::showExample() {
    if (placeholderText() != example_) return;
    example_ = QString("mean(@%1 over 2h) > {limit} for 20m").arg(exampleRole(session_));
    setPlaceholderText(example_);
}

void ExpressionEditor::showHelp() {
    const FunctionInfo* f = functionAt(toPlainText().toStdString(), caret());
    emit helpChanged(f ? QString("%1: %2. Like %3").arg(f->form, f->means, f->example) : QString());
}

void ExpressionEditor::setErrorColumn(int column) {
    if (colours_->errorColumn == column) return;
    colours_->errorColumn = column;
    const QSignalBlocker quiet(this);
    colours_->rehighlight();
}

}  // namespace jacinth::app
