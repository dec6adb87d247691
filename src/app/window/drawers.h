/// The rail at the left of the map and the drawers that it opens over it.
#pragma once

#include <QAbstractButton>
#include <QWidget>
#include <vector>

#include "output/legend.h"

namespace app {

/// A word written upwards; checked while its drawer is open.
class RailButton : public QAbstractButton {
  Q_OBJECT

 public:
  RailButton(const QString& text, const QString& name, QWidget* parent);
  QSize sizeHint() const override;
  QSize minimumSizeHint() const override;

 protected:
  void paintEvent(QPaintEvent*) override;
  void enterEvent(QEnterEvent*) override { update(); }
  void leaveEvent(QEvent*) override { update(); }
};

/// What the colours of the map mean.
class LegendCard : public QWidget {
  Q_OBJECT

 public:
  explicit LegendCard(QWidget* parent = nullptr);
  void setEntries(std::vector<acre::LegendEntry> entries);
  const std::vector<acre::LegendEntry>& entries() const { return entries_; }
  QSize sizeHint() const override;

 protected:
  void paintEvent(QPaintEvent*) override;

 private:
  std::vector<acre::LegendEntry> entries_;
};

/// One drawer at a time, over the left of a widget.
class Drawers : public QWidget {
  Q_OBJECT

 public:
  /// over: what the drawers lie over; the rail itself goes into a layout beside it.
  explicit Drawers(QWidget* over, QWidget* parent = nullptr);

  /// Adds a drawer; closed at first. Its width is as many pixels.
  void add(const QString& title, const QString& name, QWidget* content, int width);
  /// Opens the drawer with that name; empty: closes all.
  void open(const QString& name);
  QString shown() const { return open_; }

 protected:
  bool eventFilter(QObject*, QEvent*) override;
  void paintEvent(QPaintEvent*) override;

 private:
  struct Drawer {
    QString name;
    QWidget* frame;
    QWidget* content;
    RailButton* button;
    int width;
  };
  void place();

  QWidget* over_;
  std::vector<Drawer> drawers_;
  QString open_;
};

}  // namespace app
