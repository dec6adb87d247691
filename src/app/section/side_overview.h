/// A side world in little: the whole stretch about what the section shows, and a frame around that.
#pragma once

#include <QImage>
#include <QTimer>
#include <QWidget>
#include <memory>
#include <stop_token>

#include "app/document/courier.h"
#include "app/document/document.h"
#include "app/map/geometry.h"
#include "output/ground_scale.h"

namespace app {

class SideOverview : public QWidget {
  Q_OBJECT

 public:
  explicit SideOverview(Document& document, QWidget* parent = nullptr);
  ~SideOverview() override;

  /// Follows the document's world.
  void refresh();
  /// What the section shows: a line along x, and altitudes.
  void setView(const SectionLine& line, double low, double high);
  /// The picture shows the present world and stretch.
  bool settled() const { return !asked_ && !pause_.isActive(); }
  const QImage& picture() const { return picture_; }
  QRect pictureRect() const;
  /// The frame, in pixels of the widget.
  QRectF frame() const;

 signals:
  void lookedAt(qint64 x);  ///< A click or a drag: what is to be in the middle.

 protected:
  void paintEvent(QPaintEvent*) override;
  void resizeEvent(QResizeEvent*) override { ask(); }
  void showEvent(QShowEvent*) override { refresh(); }
  void changeEvent(QEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;

 private:
  /// Cells from the picture's left edge to its right one.
  struct Stretch {
    int64_t first = 0, count = 0;
    bool operator==(const Stretch&) const = default;
  };
  Stretch stretch() const;
  void ask();
  void request();
  void lookAt(QPointF place);

  Document& document_;
  std::shared_ptr<Courier<SideOverview>> courier_;
  std::stop_source stop_;
  QTimer pause_;
  std::shared_ptr<const acre::World> world_;
  std::shared_ptr<const acre::GroundScale> scale_;
  SectionLine line_;
  double low_ = 0, high_ = 1;
  Stretch drawn_;  ///< What the picture shows, or will.
  QImage picture_;
  bool asked_ = false;
  uint64_t wanted_ = 0;
};

}  // namespace app
