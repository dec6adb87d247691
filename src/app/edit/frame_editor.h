/// Editor of the Frame stage: name, chunk size, sea level, bounds; and the counts that follow.
#pragma once

#include "app/edit/editor.h"
#include "app/edit/world_kinds.h"

namespace app {

class FrameEditor : public Editor {
  Q_OBJECT

 public:
  explicit FrameEditor(Document& document, QWidget* parent = nullptr);
  void refresh() override;

 signals:
  void begun();  ///< The world is that of a start.

 private:
  void chooseKind(acre::WorldKind kind, acre::ChunkShape shape);
  void beginWith(const QString& start);
  struct AxisRow {
    NumberField* min;
    NumberField* extent;
  };
  void buildHead(QVBoxLayout* column);
  AxisRow addEnds(QVBoxLayout* column, const QString& axis, QWidget* before,
      const Place<acre::AxisBounds>& place, const NumberSpec& first, const NumberSpec& count,
      const QString& firstTip, const QString& countTip);
  AxisRow addAxis(QVBoxLayout* column, const QString& axis,
      std::optional<acre::AxisBounds> acre::Frame::*member);

  AxisRow x_;
  AxisRow z_;
  QLabel* counts_;
  KindPictures* kinds_;
  QLabel* shapeLabel_;
  Choice* shape_;
  QWidget* starts_;
  QWidget* verticalRow_;
};

}  // namespace app
