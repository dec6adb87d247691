/// The survey sheet: the world from above, with the viewpoint and the chunks streamed around it.
#pragma once

#include <QElapsedTimer>
#include <QHash>
#include <QImage>
#include <QSet>
#include <QTimer>
#include <QWidget>
#include <functional>
#include <memory>

#include "app/map/geometry.h"
#include "app/map/tile_store.h"
#include "stream/stream.h"

namespace app {

class MapView : public QWidget {
  Q_OBJECT

 public:
  explicit MapView(acre::Engine& engine, QWidget* parent = nullptr);
  ~MapView() override;

  void setWorld(std::shared_ptr<const acre::World> world);
  void setPicture(acre::PictureKind kind);
  acre::PictureKind picture() const { return kind_; }

  void setChunksShown(bool shown);
  void setRingShown(bool shown);
  /// A line of help in the margin; empty: none.
  void setHint(const QString& hint);
  void setViewDistance(int64_t cells);
  int64_t viewDistance() const { return viewDistance_; }

  /// Puts the viewpoint on a cell and the map around it.
  void goTo(acre::Cell cell);
  void backToViewpoint();
  void zoomBy(double factor, QPointF at);
  void zoomCentre(double factor);

  const Place& viewpoint() const { return viewpoint_; }
  const MapGeometry& geometry() const { return geometry_; }
  const TileStore& tiles() const { return store_; }
  acre::StreamStats streamStats() const { return stream_ ? stream_->stats() : acre::StreamStats(); }
  std::vector<acre::Stream::Failure> failures() const;
  size_t heldChunks() const { return held_.size(); }
  /// Rectangle of the picture inside the margins.
  QRect pictureRect() const;
  /// True when every picture of the present view has arrived.
  bool settled() const { return store_.current() && store_.pending() == 0; }

 signals:
  void hovered(bool inside, qint64 x, qint64 z);
  void viewpointMoved();
  void streamChanged();
  void viewChanged();  ///< Centre, scale or size.
  void didDrag();
  void didZoom();
  void didDrive();
  void worked(bool busy);

 protected:
  void paintEvent(QPaintEvent*) override;
  void resizeEvent(QResizeEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void mouseDoubleClickEvent(QMouseEvent*) override;
  void leaveEvent(QEvent*) override;
  void wheelEvent(QWheelEvent*) override;
  void keyPressEvent(QKeyEvent*) override;
  void keyReleaseEvent(QKeyEvent*) override;
  void focusInEvent(QFocusEvent*) override;
  void focusOutEvent(QFocusEvent*) override;
  bool event(QEvent*) override;

 private:
  void geometryChanged();
  void drive();
  void takeChunks();
  void hoverAt(QPointF position);

  void paintGround(QPainter& p);
  void paintChunks(QPainter& p);
  void paintBounds(QPainter& p);
  void paintRing(QPainter& p);
  void paintViewpoint(QPainter& p);
  void paintScaleBar(QPainter& p);
  void paintMargins(QPainter& p);
  /// An overlay that is slow to draw, drawn once per key, palette and resolution.
  const QImage& cached(const QString& what, QSize size, const std::function<void(QPainter&)>& draw);

  acre::Engine& engine_;
  std::shared_ptr<const acre::World> world_;
  acre::PictureKind kind_ = acre::PictureKind::Composite;
  TileStore store_;
  std::unique_ptr<acre::Stream> stream_;
  std::map<acre::ChunkPos, acre::ChunkHandle> held_;
  MapGeometry geometry_;
  Place viewpoint_;
  int64_t viewDistance_ = 320;
  bool chunksShown_ = true;
  bool ringShown_ = true;
  QString hint_;
  QHash<QString, QImage> overlays_;

  QPointF pressAt_;
  QPointF lastAt_;
  bool pressed_ = false;
  bool dragging_ = false;
  QPointF hover_;
  bool hovering_ = false;
  QSet<int> driven_;
  bool fast_ = false;
  QTimer driveTimer_;
  QElapsedTimer driveClock_;
};

}  // namespace app
