/// One layer of a piece to draw on, and the whole of it to turn.
#pragma once

#include <QWidget>
#include <map>
#include <vector>

#include "recipe/object_recipe.h"
#include "recipe/recipe.h"

namespace app {

/// The inks of a piece's signs, by sign.
std::map<char, QColor> inksOf(const acre::ObjectPiece& piece, const acre::Recipe& recipe);

/// One layer, north up. Dragged over or walked by the arrow keys, cells take the sign in hand; the
/// layer below shows through where nothing is drawn.
class PieceGrid : public QWidget {
  Q_OBJECT

 public:
  explicit PieceGrid(QWidget* parent = nullptr);
  void show(const acre::ObjectPiece& piece, const acre::Recipe& recipe, size_t layer);

  QSize sizeHint() const override;
  bool hasHeightForWidth() const override { return true; }
  int heightForWidth(int) const override { return sizeHint().height(); }
  /// Where a cell of the layer lies.
  QRectF boxOf(int x, int z) const;

 signals:
  /// erase: by the right button, or Backspace.
  void drawn(int x, int z, bool erase);
  void strokeEnded();

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;
  void focusInEvent(QFocusEvent*) override { update(); }
  void focusOutEvent(QFocusEvent*) override { update(); }

 private:
  int wide() const;
  int rows() const;
  double side() const;
  void draw(QPointF at, Qt::MouseButtons buttons);
  void tell();

  acre::ObjectPiece piece_;
  std::map<char, QColor> inks_;
  size_t layer_ = 0;
  int x_ = 0, z_ = 0;  ///< Of the keyboard.
  std::pair<int, int> last_{-1, -1};
};

/// All layers up to one as blocks in a slanting view; dragging sideways, and the arrow keys, turn
/// them.
class PieceModel : public QWidget {
  Q_OBJECT

 public:
  explicit PieceModel(QWidget* parent = nullptr);
  /// layers: so many from the lowest up; the rest is cut away.
  void show(const acre::ObjectPiece& piece, const acre::Recipe& recipe, size_t layers);
  QSize sizeHint() const override { return {170, 170}; }
  double turn() const { return turn_; }

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;
  void focusInEvent(QFocusEvent*) override { update(); }
  void focusOutEvent(QFocusEvent*) override { update(); }

 private:
  acre::ObjectPiece piece_;
  std::map<char, QColor> inks_;
  size_t layers_ = 0;
  double turn_ = 30;  ///< Degrees, about the upright axis.
  double from_ = 0, pressed_ = 0;
};

}  // namespace app
