/// A river from spring to end, as the section shows it while it is chosen.
#pragma once

#include <QToolButton>
#include <QWidget>
#include <memory>

#include "audit/river_profile.h"

namespace app {

/// Bed, water and banks along a river, and the land as it was before it was cut. Lies over the
/// section and is as large.
class LongProfile : public QWidget {
  Q_OBJECT

 public:
  explicit LongProfile(QWidget* parent);

  /// Nothing: hides.
  void setRiver(std::shared_ptr<const acre::RiverProfile> profile, const QString& name);
  const acre::RiverProfile* river() const { return profile_.get(); }
  /// The point that the pointer or the keys are at; -1: none.
  int point() const { return point_; }
  QRect pictureRect() const;

 signals:
  void pointChanged(int point, const QString& what);  ///< -1: none.
  void placeChosen(qint64 x, qint64 z);               ///< By a click or Enter.
  void closed();                                      ///< By Escape.

 protected:
  void paintEvent(QPaintEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void leaveEvent(QEvent*) override;
  void keyPressEvent(QKeyEvent*) override;
  void resizeEvent(QResizeEvent*) override;
  bool event(QEvent*) override;

 private:
  QPointF toScreen(double along, double altitude) const;
  void setPoint(int point);
  void choose();
  void paintLand(QPainter& p) const;
  void paintAxes(QPainter& p) const;
  void paintWords(QPainter& p) const;

  std::shared_ptr<const acre::RiverProfile> profile_;
  QString name_;
  double low_ = 0, high_ = 1;
  int point_ = -1;
  QToolButton* close_;
};

}  // namespace app
