#include "app/prove/rule_editor.h"

#include <QFontDatabase>

#include "core/expr/ast.h"

namespace jacinth::app {

/// Colours by the language's own tokens, so what is coloured as a role is read as one.
class RuleEditor::Colours : public QSyntaxHighlighter {
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

RuleEditor::RuleEditor(Session& session, QWidget* parent)
    : QPlainTextEdit(parent), session_(session), colours_(new Colours(document(), session)) {
    setObjectName("ruleEditor");
    setAccessibleName("Rule");
    QFont font = QFontDatabase::systemFont(QFontDatabase::FixedFont);
    font.setPixelSize(13);
    setStyleSheet("font-size: 13px;");
    setFont(font);
    setTabChangesFocus(true);
    setFixedHeight(64);
    setPlaceholderText("mean(@bearing_vibration over 2h) > 2.75 for 20m");
    connect(&session, &Session::themeChanged, this, [this] { colours_->rehighlight(); });
}

void RuleEditor::setErrorColumn(int column) {
    if (colours_->errorColumn == column) return;
    colours_->errorColumn = column;
    const QSignalBlocker quiet(this);
    colours_->rehighlight();
}

}  // namespace jacinth::app
