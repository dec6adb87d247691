/// The world as one sees it from within: a viewpoint that flies or walks, and tools to change
/// single blocks by hand.
#pragma once

#include <QElapsedTimer>
#include <QSet>
#include <QTimer>
#include <QWidget>
#include <array>

#include "app/document/courier.h"
#include "app/document/document.h"
#include "app/walk/draughtsman.h"
#include "app/walk/gl_canvas.h"
#include "audit/river_profile.h"
#include "cave/tunnel_system.h"
#include "mesh/mesh_source.h"
#include "stream/stream.h"
#include "view/walker.h"

namespace app {

struct CaveLines;

class WalkView : public QWidget {
  Q_OBJECT

 public:
  enum class Tool { Look, Cut, Fill };

  explicit WalkView(Document& document, QWidget* parent = nullptr);
  ~WalkView() override;

  /// Follows the document's world; only chunks that cells changed by hand touch are made again.
  void refresh();
  /// Puts the eye over a cell, on its ground when somebody can stand there.
  void goTo(acre::Cell cell);
  /// Looks from here at what is asked.
  void setEye(const acre::Eye& eye);
  const acre::Walker& walker() const { return walker_; }
  /// Puts the eye into a system's main passage, flying; along: goes on along its centre line until
  /// its end or until a key moves the eye.
  void enter(acre::TunnelHandle system, bool along);
  /// Goes along a river over its water, downstream, until its end or until a key moves the eye.
  void follow(const acre::RiverProfile& river);
  bool following() const { return followed_ != nullptr; }
  /// Cave systems whose centre lines are drawn; nothing: none.
  void setCaves(std::shared_ptr<const CaveLines> caves);
  void setFlying(bool flying);
  void setTool(Tool tool);
  Tool tool() const { return tool_; }
  void setFillMaterial(const QString& id) { fill_ = id; }
  void setBrush(int radius) { brush_ = radius; }
  void setDistance(int64_t cells);
  int64_t distance() const { return distance_; }
  void setLamp(bool on);
  /// Degrees clockwise from north that the light comes from.
  void setSun(double degrees);
  void setChunkLines(bool on);
  void setWireframe(bool on);
  /// A smooth surface instead of blocks.
  void setSmooth(bool on);
  bool smooth() const { return smooth_; }
  /// Leaves of trees let light through, where the ground is made of blocks.
  void setClearLeaves(bool on);
  /// Who draws. Automatic: OpenGL where hardware does it, else the software back end; OpenGl where
  /// there is none leaves the software back end.
  enum class Backend { Automatic, Software, OpenGl };
  void setBackend(Backend backend);
  bool drawnByGl() const { return canvas_ != nullptr; }

  /// Nothing is left to load and the picture shows the present eye.
  bool settled() const;
  acre::StreamStats streamStats() const { return stream_ ? stream_->stats() : acre::StreamStats(); }
  const QImage& picture() const { return drawing_.image; }
  double frameMillis() const { return canvas_ ? canvas_->frameMillis() : drawing_.millis; }
  /// Faces of the blocks around, and the rectangles they were merged into.
  std::pair<uint64_t, uint64_t> facesAndRectangles() const;
  /// The block that is aimed at: under the pointer, or in the middle.
  std::optional<acre::ViewHit> aimed() const { return aimed_; }
  /// Does what the tool does at the block that is aimed at.
  void act();

 signals:
  void moved();    ///< The eye.
  void changed();  ///< Figures, tools or what is aimed at.
  void flyingChanged(bool flying);
  void plumbRequested(qint64 x, qint64 y, qint64 z);
  void refused(const QString& reason);
  void didWalk();

 protected:
  void paintEvent(QPaintEvent*) override;
  void resizeEvent(QResizeEvent*) override;
  void showEvent(QShowEvent*) override;
  void hideEvent(QHideEvent*) override;
  void keyPressEvent(QKeyEvent*) override;
  void keyReleaseEvent(QKeyEvent*) override;
  void focusOutEvent(QFocusEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void leaveEvent(QEvent*) override;
  void wheelEvent(QWheelEvent*) override;

 private:
  void startStream();
  acre::FaceOptions faces() const;
  /// Meshes are made in another way than those that are there.
  void remesh();
  void takeChunks();
  void followEye();
  void requestBox();
  void tick();
  void wake();
  void redraw();
  void aim();
  bool isHeld(int key) const;
  acre::WalkInput input() const;
  /// Looks for ground to stand on near the eye, off the interface thread; hover: flies above it.
  void askToLand(bool hover);
  void chooseBackend();
  /// What lies over the picture, whoever drew it.
  void paintOver(QPainter& p) const;
  void repaintPicture();
  void paintCompass(QPainter& p) const;
  void paintCaves(QPainter& p) const;
  struct Track;
  void setOut(Track track, bool along);
  /// Puts the eye onto the line that is followed, so many cells from its beginning.
  void placeOnLine();
  void paintAim(QPainter& p) const;
  QPointF project(double x, double y, double z, bool& behind) const;

  Document& document_;
  std::shared_ptr<const acre::World> world_;
  std::unique_ptr<acre::BlockClasses> classes_;
  acre::ViewStyle style_;
  std::unique_ptr<acre::Stream> stream_;
  std::map<acre::ChunkPos, acre::ChunkHandle> held_;
  std::shared_ptr<const acre::Scene> scene_;
  bool sceneStale_ = true;
  acre::Walker walker_;
  bool placed_ = false;
  /// A line that the eye goes along, in cells from the lower corner of a cell at y 0.
  struct Track {
    acre::Cell from;
    double speed;
    std::vector<std::array<double, 3>> points;
  };
  std::shared_ptr<const Track> followed_;
  double alongLine_ = 0;
  std::shared_ptr<const CaveLines> caves_;
  uint64_t landRequest_ = 0;
  bool landing_ = false;  // Ground is being looked for.
  int64_t distance_ = 256;
  acre::BlockBox box_;
  bool boxAsked_ = false;
  uint64_t boxRequest_ = 0;

  Tool tool_ = Tool::Look;
  QString fill_;
  int brush_ = 0;
  std::optional<acre::ViewHit> aimed_;
  std::optional<QPointF> pointer_;
  QPointF pressAt_, lastAt_;
  bool pressed_ = false, dragging_ = false;
  QSet<int> keys_;
  QSet<int> tapped_;  // Pressed since the last frame, though they may be up again.
  bool fast_ = false;
  QTimer frame_;
  QElapsedTimer clock_;
  bool drawingAsked_ = false;
  bool stale_ = true;  // The picture does not show the present eye.
  Draughtsman::Drawing drawing_;
  bool smooth_ = false, clearLeaves_ = false;
  double sun_ = 315;
  Backend backend_ = Backend::Automatic;
  GlCanvas* canvas_ = nullptr;  // While OpenGL draws.
  std::shared_ptr<Courier<WalkView>> courier_;
  std::unique_ptr<Draughtsman> draughtsman_;  // Last: it is done before what it speaks to goes.
};

}  // namespace app
