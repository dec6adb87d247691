/// All cases of a set of tiles with their numbers, to look at and to leave out.
#pragma once

#include <QImage>
#include <QWidget>
#include <vector>

#include "audit/tile_figures.h"
#include "audit/tile_sets.h"

namespace app {

/// Of a set: its pictures, what is wrong with them, and how often each case is in view.
struct SheetOfSet {
  acre::TileSet set;
  acre::TileArt art;
  /// Of the method corners: the ambiguous cases cut and joined, where the workbench draws them.
  std::vector<QImage> ways;
  acre::TileSetReport report;
  std::vector<int64_t> counts;  ///< By case; empty: no group shows it.
};

/// A picture as it is, each pixel for itself.
QImage imageOf(const std::vector<uint32_t>& pixels, int side);
QImage imageOf(const acre::RgbaPicture& picture);

class SetSheet : public QWidget {
  Q_OBJECT

 public:
  explicit SetSheet(QWidget* parent = nullptr);
  void show(std::shared_ptr<const SheetOfSet> of);

  QSize sizeHint() const override;
  bool hasHeightForWidth() const override { return true; }
  int heightForWidth(int width) const override;
  /// Where the picture of a case lies.
  QRect boxOf(int number) const;
  int chosen() const { return chosen_; }

 signals:
  /// The picture of a case is to be left out, or to come back.
  void leftOut(int number);

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;
  bool event(QEvent*) override;
  void resizeEvent(QResizeEvent*) override { setFixedHeight(heightForWidth(width())); }
  void focusInEvent(QFocusEvent*) override { update(); }
  void focusOutEvent(QFocusEvent*) override { update(); }

 private:
  static constexpr int kAcross = 8;
  int count() const;
  int side(int width) const;
  void choose(int number);
  QString wordsOf(int number) const;
  QImage pictureOf(int number) const;

  std::shared_ptr<const SheetOfSet> of_;
  int chosen_ = 0;
};

}  // namespace app
