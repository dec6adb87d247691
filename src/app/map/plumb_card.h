/// The plumb line's card: why a cell is what it is.
#pragma once

#include <QWidget>
#include <optional>

#include "audit/plumb.h"

namespace app {

/// A line with one knot a row, the answer first. A row can be clicked, or chosen with Up and Down
/// and Enter, to open the control that decides it. With a second plumb line only what differs is
/// shown.
class PlumbCard : public QWidget {
  Q_OBJECT

 public:
  explicit PlumbCard(QWidget* parent = nullptr);

  /// Rows that changed against the card before say what they were.
  void setPlumb(const acre::Plumb& plumb);
  void setSecond(const std::optional<acre::Plumb>& plumb);
  const std::optional<acre::Plumb>& plumb() const { return plumb_; }
  const std::optional<acre::Plumb>& second() const { return second_; }
  void clear();
  /// The height that the card needs.
  int neededHeight() const;
  static constexpr int kCardWidth = 284;

 signals:
  void pointerChosen(const QString& pointer);
  void copyRequested(const QString& form);  ///< "text", "json" or "command".
  void closeRequested();
  void resized();

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void contextMenuEvent(QContextMenuEvent*) override;
  void keyPressEvent(QKeyEvent*) override;
  void wheelEvent(QWheelEvent*) override;
  void resizeEvent(QResizeEvent*) override;
  bool event(QEvent*) override;

 private:
  struct Line {
    QString label;
    QString value = {};
    QString note = {};
    std::string pointer = {};
    bool deciding = false;
    bool stageStart = false;
    bool fold = false;  // The line that opens and closes the details.
    QString stage = {};
    int noteHeight = 0;  // As many rows as its words need.
    int rowHeight = 0;   // The same of the label.
  };
  static QFont fontOf(const Line& line);
  void build();
  void paintHead(QPainter& p) const;
  void paintLine(QPainter& p, const Line& line, int y, bool chosen) const;
  /// Height of all lines, and of the part of the card that shows them.
  int linesHeight() const;
  int roomForLines() const;
  void scrollTo(int offset);
  void choose(int line);
  int lineAt(QPoint p) const;
  int heightOf(const Line& line) const;

  std::optional<acre::Plumb> plumb_;
  std::optional<acre::Plumb> second_;
  std::optional<acre::Plumb> before_;  // The same cell before the last change.
  bool open_ = false;
  std::vector<Line> lines_;
  int chosen_ = -1;
  int scroll_ = 0;  // How far the lines are moved up, where the card has no room for all.
};

}  // namespace app
