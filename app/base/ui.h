// Small makers of widgets, so that benches look alike.
#pragma once

#include <QAbstractTableModel>
#include <QComboBox>
#include <QFormLayout>
#include <QHeaderView>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QTableView>
#include <QVBoxLayout>
#include <functional>

namespace jacinth::app {

QLabel* makeLabel(const QString& text, const char* role = "");
QPushButton* makeButton(const QString& text, const QString& name, bool primary = false);
QLineEdit* makeField(const QString& name, const QString& accessible);
QComboBox* makeChoice(const QString& name, const QString& accessible, const QStringList& items);
/// A thin line between sections of an inspector.
QWidget* makeRule();
/// Scrolls up and down where there is less room than it wants: it never makes the window taller than the
/// screen.
QWidget* makeScrolled(QWidget* inside);
/// A row of a form: words on the left, the field on the right.
void addRow(QVBoxLayout* to, const QString& words, QWidget* field);
/// Several short fields in one row, with words after each; words on the left as wide as `least`.
QWidget* makeFields(const QString& words, std::initializer_list<std::pair<QString, QWidget*>> fields,
                    int least = 104);
/// A quiet button that shows and hides further settings. `first` is called before: what makes room for them
/// has to go before they come, or the window grows.
QPushButton* makeMoreButton(const QString& name, QWidget* more, std::function<void(bool)> first = {});
/// Shows figures in a label: words on the left, values on the right, and a text below. Nothing is taken for
/// markup.
void showFigures(QLabel* label, const std::vector<std::pair<QString, QString>>& figures,
                 const QString& below = {});
/// A text for a tool tip in which nothing is taken for markup: names come from the record.
QString plainTip(const QString& text);
void setRole(QLabel* label, const char* role);  ///< second, good, bad, …
void markWrong(QLineEdit* field, bool wrong, const QString& why = {});

/// The roles in a text with commas between them; a leading @ is taken off.
std::vector<std::string> rolesIn(const QString& text);

/// A table of texts with a key a row, refilled at once. Cells may carry a colour and a gem.
class RowsModel : public QAbstractTableModel {
    Q_OBJECT
  public:
    struct Row {
        std::int64_t key = 0;
        QStringList cells;
        int gem = -1;                ///< facets in the first cell; −1 for no gem
        QColor swatch;               ///< a square of colour in the first cell
        std::optional<bool> ticked;  ///< a tick box in the first cell
        QColor ink;                  ///< of the row; the theme's where not valid
    };
    RowsModel(QStringList header, QObject* parent)
        : QAbstractTableModel(parent), header_(std::move(header)) {}
    void setRows(std::vector<Row> rows);
    const std::vector<Row>& rows() const { return rows_; }
    int rowOf(std::int64_t key) const;
    int rowCount(const QModelIndex& parent = {}) const override {
        return parent.isValid() ? 0 : static_cast<int>(rows_.size());
    }
    int columnCount(const QModelIndex& = {}) const override { return static_cast<int>(header_.size()); }
    QVariant data(const QModelIndex& index, int role) const override;
    QVariant headerData(int section, Qt::Orientation orientation, int role) const override;
    bool setData(const QModelIndex& index, const QVariant& value, int role) override;
    Qt::ItemFlags flags(const QModelIndex& index) const override;
    void setGemColours(const QColor& edge, const QColor& inside) { gemEdge_ = edge, gemInside_ = inside; }

  signals:
    void tickToggled(std::int64_t key, bool on);

  private:
    QStringList header_;
    std::vector<Row> rows_;
    QColor gemEdge_{"#B93A14"}, gemInside_{"#FFFFFF"};
};

/// A quiet table over a RowsModel. `widths` in pixels; the widest (0) takes what is left.
QTableView* makeTable(RowsModel* model, const QString& name, const std::vector<int>& widths);
/// The key of the current row; 0 for none.
std::int64_t currentKey(const QTableView* table);

}  // namespace jacinth::app
