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
#include <optional>
#include <stop_token>

#include "app/document/courier.h"
#include "app/map/geometry.h"
#include "app/map/tile_store.h"
#include "app/overlay/overlay.h"
#include "stream/stream.h"

namespace app {

/// A traverse as the map shows it: chunks in place of the map's own.
struct TraverseScene {
  acre::ChunkLayout layout{32};
  acre::Rect bounds;
  std::vector<acre::Stream::Place> places;
  acre::Cell view;
  int64_t viewDistance = 0;
  bool follow = true;  ///< The map goes along.
  int covered = 0;     ///< Pixels at the left that something lies over.
};

class MapView : public QWidget {
  Q_OBJECT

 public:
  explicit MapView(acre::Engine& engine, QWidget* parent = nullptr);
  ~MapView() override;

  /// scale: that of another world, to be compared with; nothing: its own.
  void show(std::shared_ptr<const acre::World> world, const acre::Picture& picture,
      std::shared_ptr<const acre::GroundScale> scale = nullptr);
  /// By what the ground is scaled.
  const std::shared_ptr<const acre::GroundScale>& scale() const { return scale_; }
  /// What is shown, which the document's need not be: the one before, or one up to a stage.
  const std::shared_ptr<const acre::World>& world() const { return world_; }
  const acre::Picture& picture() const { return picture_; }
  void setStyle(const acre::Style& style);
  const acre::Style& style() const { return style_; }

  void setChunksShown(bool shown);
  void setRingShown(bool shown);
  /// A line of help in the margin; empty: none.
  void setHint(const QString& hint);
  /// Why there is nothing to see, in the middle of the picture; empty: nothing is wrong.
  void setEmptyNote(const QString& note);
  /// Contour lines at this interval; 0: none; kByZoom: as suits the picture.
  void setContours(double interval);
  static constexpr double kByZoom = -1;
  double contourInterval() const { return contourInterval_; }

  // The section line A-B. It runs west-east through the viewpoint, as long as the picture is wide,
  // until its ends are dragged.
  const SectionLine& sectionLine() const { return line_; }
  void setLineShown(bool shown);
  void resetLine();
  QPointF lineEnd(bool b) const;  ///< In pixels of the widget.
  /// A place along the line that the pointer is over elsewhere, 0 ... 1; negative: none.
  void setLineHair(double at);

  /// Where the foot of a cell on the line lies, 0 ... 1; negative when it is far from the line.
  double alongLine(acre::Cell cell) const;

  /// The plumb line hangs from these cells; nothing: none.
  void setPlumbs(std::optional<acre::Cell> first, std::optional<acre::Cell> second);

  /// Where the card of the plumb line belongs: over the farther half of the picture.
  QPoint cardPlace(QSize card) const;
  acre::Cell cursorCell() const { return cursor_.value_or(viewpoint_.cell); }

  /// What lies over the ground; the section shows the same.
  Overlays& overlays() { return overlays_; }
  /// Shows a traverse's chunks instead of the map's own; nothing: its own again.
  void setTraverse(std::shared_ptr<const TraverseScene> scene);
  /// Clicks give points of a route instead of hanging a plumb line.
  void setDrawingRoute(bool on);
  bool drawingRoute() const { return drawingRoute_; }

  /// Asks again for all chunks that failed.
  void retryFailed();

  void setViewDistance(int64_t cells);
  int64_t viewDistance() const { return viewDistance_; }

  /// Puts the viewpoint on a cell and the map around it.
  void goTo(acre::Cell cell);
  void backToViewpoint();
  /// The viewpoint on one place, the map's middle on another.
  void lookAt(const Place& viewpoint, const Place& centre, double cellsPerPixel);
  /// Shows all of a rectangle, until the map is moved or zoomed. covered: pixels at the left that
  /// something lies over.
  void fit(const acre::Rect& cells, int covered = 0);
  bool fitted() const { return fitted_.has_value(); }
  void zoomBy(double factor, QPointF at);
  void zoomCentre(double factor);

  const Place& viewpoint() const { return viewpoint_; }
  const MapGeometry& geometry() const { return geometry_; }
  const TileStore& tiles() const { return store_; }
  acre::StreamStats streamStats() const { return stream_ ? stream_->stats() : acre::StreamStats(); }
  std::vector<acre::Stream::Failure> failures() const;
  /// Rectangle of the picture inside the margins.
  QRect pictureRect() const;
  /// While on, dragging paints instead of moving the map.
  void setPainting(bool on);
  bool painting() const { return painting_; }
  /// True when every picture of the present view has arrived.
  bool settled() const;

 signals:
  void hovered(bool inside, qint64 x, qint64 z);
  void viewpointMoved();
  void streamChanged();
  void viewChanged();  ///< Centre, scale or size.
  void worldShown();   ///< Another world than before.
  void sectionChanged();
  void plumbRequested(qint64 x, qint64 z, bool second);
  void routePointed(qint64 x, qint64 z);
  void painted(qint64 fromX, qint64 fromZ, qint64 toX, qint64 toZ);  ///< While painting.
  void paintingEnded();                                              ///< The button was let go.
  void menuRequested(QPoint global);
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
  void contextMenuEvent(QContextMenuEvent*) override;
  void focusInEvent(QFocusEvent*) override;
  void focusOutEvent(QFocusEvent*) override;
  bool event(QEvent*) override;

 private:
  void geometryChanged();
  void drive();
  void startStream();
  /// Asks for the pictures of what is shown.
  void showStyled();
  void takeChunks();
  void hoverAt(QPointF position);
  void paintTo(QPointF position);
  void describeAloud();
  /// Repaints the margins, where the pointer is marked.
  void updateMargins();

  struct DrawnContour {
    double level;
    bool label;
    QPolygonF points;  ///< In cells from contourOrigin_.
  };
  void followLine();
  void requestContours();
  void paintContours(QPainter& p);
  void paintLine(QPainter& p);
  QPointF onLine(double at) const;
  void paintPlumbs(QPainter& p);
  void paintEmptyNote(QPainter& p);
  void paintPicture(QPainter& p, const QRect& picture);
  void paintGround(QPainter& p);
  double fadeShare() const;
  /// Where a grid of samples is drawn, in pixels of the picture; empty when out of view.
  QRect samplesRect(acre::Cell first, int64_t step, QSize samples) const;
  QRect tileRect(const TileStore::Key& key) const;
  /// Repaints together what arrives within one frame.
  void paintSoon(const QRect& where);
  /// What is to be drawn of the chunks: the map's own, or those of a traverse.
  struct ChunkScene {
    acre::ChunkLayout layout;
    std::vector<acre::Stream::Place> places;
    std::map<acre::ChunkPos, acre::Rect> held;  ///< Ground that is there.
  };
  const ChunkScene& chunkScene();
  void paintUnloaded(QPainter& p, const ChunkScene& scene, const acre::Rect& visible);
  void paintVeil(QPainter& p, const QColor& veil, const ChunkScene& scene, acre::Cell low,
      acre::Cell high, const QRect& box) const;
  void paintChunks(QPainter& p);
  void paintBounds(QPainter& p);
  void paintRing(QPainter& p);
  void paintViewpoint(QPainter& p);
  QPointF viewpointOnScreen() const;  ///< The map's own, or that of a traverse.
  void paintScaleBar(QPainter& p);
  void paintMargins(QPainter& p);
  /// An overlay that is slow to draw, drawn once per key, palette and resolution.
  const QImage& cached(const QString& what, QSize size, const std::function<void(QPainter&)>& draw);

  acre::Engine& engine_;
  std::shared_ptr<const acre::World> world_;
  acre::Picture picture_;
  bool painting_ = false;
  acre::Style style_;
  std::shared_ptr<const acre::GroundScale> scale_;
  bool ownScale_ = true;  ///< It is that of the world that is shown.
  TileStore store_;
  int shownLevel_ = -1;
  QElapsedTimer fadeClock_;  // Since the level changed; invalid: long ago.
  QTimer fadeTimer_;
  std::unique_ptr<acre::Stream> stream_;
  std::map<acre::ChunkPos, acre::ChunkHandle> held_;
  std::optional<ChunkScene> scene_;  // Until the chunks change.
  std::shared_ptr<const TraverseScene> traverse_;
  Overlays overlays_;
  bool drawingRoute_ = false;
  MapGeometry geometry_;
  std::optional<acre::Rect> fitted_;
  int fittedBeside_ = 0;  // Pixels that are covered.
  Place viewpoint_;
  int64_t viewDistance_ = 320;
  bool chunksShown_ = true;
  bool ringShown_ = true;
  QString hint_;
  QString emptyNote_;
  QHash<QString, QImage> drawn_;

  SectionLine line_;
  bool lineShown_ = true;
  bool linePlaced_ = false;  // By hand: it no longer follows the viewpoint.
  int draggedEnd_ = -1;
  double lineHair_ = -1;
  std::optional<acre::Cell> plumbs_[2];
  std::optional<acre::Cell> cursor_;

  double contourInterval_ = 0;
  bool contoursByZoom_ = false;
  std::vector<DrawnContour> contours_;
  acre::Cell contourOrigin_;
  QTimer contourPause_;
  QTimer frame_;
  QRegion soon_;
  uint64_t contourRequest_ = 0;
  std::stop_source contourStop_;
  std::shared_ptr<Courier<MapView>> courier_;

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
