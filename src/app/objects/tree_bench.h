/// A bench on which the trees of a style grow, round by round.
#pragma once

#include <QLabel>
#include <QSlider>
#include <QWidget>

#include "app/document/document.h"
#include "app/edit/choice.h"
#include "app/edit/number_field.h"
#include "app/edit/tick.h"
#include "app/objects/tree_canvas.h"

class QVBoxLayout;

namespace app {

class TreeBench : public QWidget {
  Q_OBJECT

 public:
  explicit TreeBench(Document& document, QWidget* parent = nullptr);

  /// Puts a style on it.
  void showStyle(const QString& id);
  QString style() const { return style_->currentData().toString(); }
  TreeCanvas& canvas() { return *canvas_; }
  bool settled() const { return canvas_->settled(); }
  /// Follows the recipe.
  void refresh();

 signals:
  void closed();

 protected:
  void keyPressEvent(QKeyEvent*) override;
  void showEvent(QShowEvent*) override;

 private:
  void buildHead(QVBoxLayout* column);
  void buildFoot(QVBoxLayout* column);
  void setRounds(int rounds);
  void setVariant(int variant);
  void draw();
  void tell();
  void takeWind(double strength, double toward, bool during);

  Document& document_;
  Choice* style_;
  NumberField* variant_;
  Tick *points_, *wood_, *leaves_, *sheet_;
  QSlider *rounds_, *slice_;
  QLabel* told_;
  QLabel* none_;
  TreeCanvas* canvas_;
  double wind_ = 0, yaw_ = 20, pitch_ = -8;
  bool whole_ = true;  ///< It has grown to its end, however many rounds that takes.
};

}  // namespace app
