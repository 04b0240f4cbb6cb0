// Small makers of widgets, so that benches look alike.
#pragma once

#include <QComboBox>
#include <QFormLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QVBoxLayout>
#include <functional>

namespace jacinth::app {

QLabel* makeLabel(const QString& text, const char* role = "");
QPushButton* makeButton(const QString& text, const QString& name, bool primary = false);
QLineEdit* makeField(const QString& name, const QString& accessible);
QComboBox* makeChoice(const QString& name, const QString& accessible, const QStringList& items);
/// What a choice holds now, behind one for all; what is chosen is kept where it is still there.
void refillChoice(QComboBox* box, const QString& all, const QStringList& items);
/// A thin line between sections of an inspector.
QWidget* makeRule();
/// Scrolls up and down where there is less room than it wants: it never makes the window taller than the
/// screen.
QWidget* makeScrolled(QWidget* inside);
/// A row of a form: words on the left, the field on the right.
void addRow(QVBoxLayout* to, const QString& words, QWidget* field);
/// The fields of all rows on a widget begin at one line, behind the longest of their words.
void alignRowLabels(const QWidget* on);
/// Several short fields in one row, with words after each; words on the left as wide as `least`.
QWidget* makeFields(const QString& words, std::initializer_list<std::pair<QString, QWidget*>> fields,
                    int least = 104);
/// A quiet button that shows and hides further settings. `first` is called before: what makes room for them
/// has to go before they come, or the window grows.
QPushButton* makeMoreButton(const QString& name, QWidget* more, const std::function<void(bool)>& first = {});
/// Shows figures in a label: words on the left, values on the right, and a text below. Nothing is taken for
/// markup.
void showFigures(QLabel* label, const std::vector<std::pair<QString, QString>>& figures,
                 const QString& below = {});
/// A text for a tool tip in which nothing is taken for markup: names come from the record.
QString plainTip(const QString& text);
void setRole(QLabel* label, const char* role);  ///< second, good, bad, …
void markWrong(QLineEdit* field, bool wrong, const QString& why = {});

/// The roles and paths in a text with commas between them; without a leading @, or the back quotes of a path.
std::vector<std::string> rolesIn(const QString& text);

}  // namespace jacinth::app
