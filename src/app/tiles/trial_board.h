/// A few cells to paint on, which show at once how a set's tiles fit.
#pragma once

#include <QImage>
#include <QWidget>
#include <memory>
#include <set>

#include "app/tiles/set_sheet.h"

namespace app {

/// The left button paints inside, the right one outside; the keys move a frame and Space turns the
/// cell in it over.
class TrialBoard : public QWidget {
  Q_OBJECT

 public:
  explicit TrialBoard(QWidget* parent = nullptr);
  void show(std::shared_ptr<const SheetOfSet> of);

  void clear();
  /// Every second cell or so inside; each time others.
  void fillAtRandom();
  /// A larger board on which every case lies somewhere.
  void showEveryCase();
  const acre::TileBoard& board() const { return board_; }
  /// Cases that lie on it.
  std::set<int> casesThere() const;

  QSize sizeHint() const override { return {320, heightForWidth(320)}; }
  bool hasHeightForWidth() const override { return true; }
  int heightForWidth(int width) const override;
  QRect boxOf(int x, int z) const;

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;
  void focusInEvent(QFocusEvent*) override { update(); }
  void focusOutEvent(QFocusEvent*) override { update(); }
  void resizeEvent(QResizeEvent*) override { fit(); }

 private:
  static constexpr int kWide = 14, kLong = 8;
  int side() const;
  void paintAt(QPointF at, Qt::MouseButtons buttons);
  /// As high as its cells are at this width.
  void fit();
  void draw();

  std::shared_ptr<const SheetOfSet> of_;
  acre::TileBoard board_{kWide, kLong};
  QImage picture_;
  int x_ = 0, z_ = 0;  ///< Of the keyboard.
  uint32_t fills_ = 0;
};

}  // namespace app
