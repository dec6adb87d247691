/// Draws walk views by OpenGL 3.3: what the software back end draws, from the same meshes.
#pragma once

#include <QElapsedTimer>
#include <QOpenGLBuffer>
#include <QOpenGLFramebufferObject>
#include <QOpenGLFunctions_3_3_Core>
#include <QOpenGLShaderProgram>
#include <QOpenGLVertexArrayObject>
#include <QOpenGLWidget>
#include <functional>
#include <map>

#include "base/budget.h"
#include "view/scene.h"

namespace app {

/// Whether OpenGL is there and drawn by hardware, as far as it tells; asked of the system once.
struct GlSupport {
  bool there = false;
  bool hardware = false;
  QString renderer;  ///< Empty when there is none.
};
const GlSupport& glSupport();

/// Two passes. The first writes for every pixel what is there: inverse depth, material and side,
/// light, and a number by rectangle. The second colours and inks it, as the software back end does.
/// Only where glSupport().there: never on platforms without OpenGL.
class GlCanvas : public QOpenGLWidget, private QOpenGLFunctions_3_3_Core {
  Q_OBJECT

 public:
  /// overlay: painted over each picture.
  GlCanvas(acre::MemoryBudget& budget, std::function<void(QPainter&)> overlay, QWidget* parent);
  ~GlCanvas() override;

  void draw(
      std::shared_ptr<const acre::Scene> scene, const acre::Eye& eye, const acre::ViewStyle& style);
  /// The last picture shows all of the last scene.
  bool complete() const { return complete_; }
  double frameMillis() const { return millis_; }
  uint64_t drawn() const { return drawn_; }
  /// Why nothing can be drawn; empty: it can.
  QString fault() const { return fault_; }
  /// The limit of memory held for part of the last scene alone.
  bool lacksRoom() const { return lacksRoom_; }

 signals:
  void painted();

 protected:
  void initializeGL() override;
  void paintGL() override;

 private:
  struct Mesh {
    std::shared_ptr<const acre::BlockMesh> of;
    uint8_t walls = 0;
    GLuint array = 0, vertices = 0, indices = 0;
    GLsizei count = 0;
    acre::MemoryBudget::Reservation room;
    bool wanted = false;
  };
  bool upload(const acre::ScenePart& part, Mesh& mesh);
  void release(Mesh& mesh);
  /// The bricks of the scene that are on the card; some more of them each time.
  void follow();
  void drawGround(const QSize& pixels);
  void drawInk(const QSize& pixels);
  void setInks();

  acre::MemoryBudget& budget_;
  std::function<void(QPainter&)> overlay_;
  std::shared_ptr<const acre::Scene> scene_;
  acre::Eye eye_;
  acre::ViewStyle style_;
  std::map<const acre::BlockMesh*, Mesh> meshes_;
  std::unique_ptr<QOpenGLShaderProgram> ground_, ink_;
  std::unique_ptr<QOpenGLFramebufferObject> buffer_;
  GLuint empty_ = 0, inks_ = 0;  // An array without anything, and the colours of materials.
  std::vector<uint32_t> inksSet_;
  bool ready_ = false, complete_ = false, lacksRoom_ = false;
  double millis_ = 0;
  uint64_t drawn_ = 0;
  QString fault_;
};

}  // namespace app
