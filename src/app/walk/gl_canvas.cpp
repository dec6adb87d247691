#include "app/walk/gl_canvas.h"

#include <QGuiApplication>
#include <QOffscreenSurface>
#include <QOpenGLContext>
#include <QOpenGLFunctions>
#include <QPainter>
#include <cmath>

#include "app/walk/gl_shaders.h"

namespace app {
namespace {

constexpr float kNearest = 0.05f;
constexpr int kUploads = 32;         // Bricks a picture.
constexpr uint32_t kSmoothSide = 6;  // After the six sides of blocks.

struct Vertex {
  float x, y, z;
  float nx, ny, nz;
  uint32_t kind;
};

QSurfaceFormat format33() {
  QSurfaceFormat format;
  format.setVersion(3, 3);
  format.setProfile(QSurfaceFormat::CoreProfile);
  format.setDepthBufferSize(24);
  return format;
}

/// The corners of rectangles and triangles, and what joins them.
struct Soup {
  std::vector<Vertex> vertices;
  std::vector<uint32_t> indices;

  void add(const acre::BlockMesh& mesh, uint8_t walls) {
    for (const acre::Quad& q : mesh.quads) {
      const int side = static_cast<int>(q.side), axis = side / 2;
      const int u = axis == 0 ? 2 : 0, v = axis == 1 ? 2 : 1;
      const float way = side % 2 ? 1.0f : -1.0f;
      const auto base = static_cast<uint32_t>(vertices.size());
      for (const auto& [i, j] :
          {std::pair(0, 0), std::pair(1, 0), std::pair(1, 1), std::pair(0, 1)}) {
        float at[3] = {static_cast<float>(q.x), static_cast<float>(q.y), static_cast<float>(q.z)};
        at[u] += static_cast<float>(i * q.width);
        at[v] += static_cast<float>(j * q.height);
        vertices.push_back({at[0], at[1], at[2], axis == 0 ? way : 0, axis == 1 ? way : 0,
            axis == 2 ? way : 0, q.material | static_cast<uint32_t>(side) << 16});
      }
      for (const uint32_t k : {0u, 1u, 2u, 0u, 2u, 3u}) indices.push_back(base + k);
    }
    const auto triangle = [&](const acre::SurfaceTriangle& t) {
      for (const uint32_t corner : {t.a, t.b, t.c}) {
        const acre::SurfacePoint& p = mesh.points[corner];
        indices.push_back(static_cast<uint32_t>(vertices.size()));
        vertices.push_back({p.x, p.y, p.z, p.nx, p.ny, p.nz, t.material | kSmoothSide << 16});
      }
    };
    for (const acre::SurfaceTriangle& t : mesh.triangles) triangle(t);
    for (size_t side = 0; side < acre::kSides; ++side)
      if (walls >> side & 1)
        for (const acre::SurfaceTriangle& t : mesh.walls[side]) triangle(t);
  }
};

/// How far right and up the edges of a picture lie, at depth 1.
QVector2D slopesOf(const acre::Eye& eye, const QSize& pixels) {
  const auto half = static_cast<float>(std::tan(eye.field * (3.14159265358979323846 / 360)));
  return {half, half * static_cast<float>(pixels.height()) / static_cast<float>(pixels.width())};
}

QVector3D inkOf(uint32_t argb) {
  return {static_cast<float>(argb >> 16 & 255) / 255, static_cast<float>(argb >> 8 & 255) / 255,
      static_cast<float>(argb & 255) / 255};
}

}  // namespace

const GlSupport& glSupport() {
  static const GlSupport support = [] {
    GlSupport out;
    if (QGuiApplication::platformName() == QLatin1String("offscreen")) return out;
    QOpenGLContext context;
    context.setFormat(format33());
    QOffscreenSurface surface;
    surface.setFormat(format33());
    surface.create();
    if (!context.create() || !context.makeCurrent(&surface)) return out;
    const auto version = context.format().version();
    const auto* name = reinterpret_cast<const char*>(context.functions()->glGetString(GL_RENDERER));
    out.renderer = QString::fromUtf8(name ? name : "");
    out.there = version >= std::pair(3, 3);
    const QString low = out.renderer.toLower();
    out.hardware = out.there && !low.contains(QLatin1String("llvmpipe")) &&
                   !low.contains(QLatin1String("softpipe")) &&
                   !low.contains(QLatin1String("swrast")) &&
                   !low.contains(QLatin1String("software"));
    context.doneCurrent();
    return out;
  }();
  return support;
}

GlCanvas::GlCanvas(
    acre::MemoryBudget& budget, std::function<void(QPainter&)> overlay, QWidget* parent)
    : QOpenGLWidget(parent), budget_(budget), overlay_(std::move(overlay)) {
  setFormat(format33());
  setAttribute(Qt::WA_TransparentForMouseEvents);
  setFocusPolicy(Qt::NoFocus);
}

GlCanvas::~GlCanvas() {
  if (!ready_) return;
  makeCurrent();
  for (auto& [key, mesh] : meshes_) release(mesh);
  buffer_.reset();
  ground_.reset();
  ink_.reset();
  glDeleteTextures(1, &inks_);
  glDeleteVertexArrays(1, &empty_);
  doneCurrent();
}

void GlCanvas::draw(
    std::shared_ptr<const acre::Scene> scene, const acre::Eye& eye, const acre::ViewStyle& style) {
  scene_ = std::move(scene);
  eye_ = eye;
  style_ = style;
  update();
}

void GlCanvas::initializeGL() {
  if (!initializeOpenGLFunctions()) {
    fault_ = tr("OpenGL 3.3 is not there.");
    return;
  }
  const auto program = [&](const char* vertex, const char* fragment) {
    auto out = std::make_unique<QOpenGLShaderProgram>();
    if (!out->addShaderFromSourceCode(QOpenGLShader::Vertex, vertex) ||
        !out->addShaderFromSourceCode(QOpenGLShader::Fragment, fragment) || !out->link())
      fault_ = out->log();
    return out;
  };
  ground_ = program(kGroundVertex, kGroundFragment);
  ink_ = program(kInkVertex, kInkFragment);
  glGenVertexArrays(1, &empty_);
  glGenTextures(1, &inks_);
  ready_ = true;
}

bool GlCanvas::upload(const acre::ScenePart& part, Mesh& mesh) {
  Soup soup;
  soup.add(*part.mesh, part.walls);
  const uint64_t bytes = soup.vertices.size() * sizeof(Vertex) + soup.indices.size() * 4;
  auto room = budget_.reserve(bytes);
  if (!room) return false;
  mesh.room = std::move(*room);
  mesh.of = part.mesh;
  mesh.walls = part.walls;
  mesh.count = static_cast<GLsizei>(soup.indices.size());
  glGenVertexArrays(1, &mesh.array);
  glBindVertexArray(mesh.array);
  glGenBuffers(1, &mesh.vertices);
  glBindBuffer(GL_ARRAY_BUFFER, mesh.vertices);
  glBufferData(GL_ARRAY_BUFFER, static_cast<GLsizeiptr>(soup.vertices.size() * sizeof(Vertex)),
      soup.vertices.data(), GL_STATIC_DRAW);
  glGenBuffers(1, &mesh.indices);
  glBindBuffer(GL_ELEMENT_ARRAY_BUFFER, mesh.indices);
  glBufferData(GL_ELEMENT_ARRAY_BUFFER, static_cast<GLsizeiptr>(soup.indices.size() * 4),
      soup.indices.data(), GL_STATIC_DRAW);
  const auto offset = [](size_t bytesIn) { return reinterpret_cast<const void*>(bytesIn); };
  glEnableVertexAttribArray(0);
  glVertexAttribPointer(0, 3, GL_FLOAT, GL_FALSE, sizeof(Vertex), offset(0));
  glEnableVertexAttribArray(1);
  glVertexAttribPointer(1, 3, GL_FLOAT, GL_FALSE, sizeof(Vertex), offset(offsetof(Vertex, nx)));
  glEnableVertexAttribArray(2);
  glVertexAttribIPointer(2, 1, GL_UNSIGNED_INT, sizeof(Vertex), offset(offsetof(Vertex, kind)));
  glBindVertexArray(0);
  return true;
}

void GlCanvas::release(Mesh& mesh) {
  glDeleteVertexArrays(1, &mesh.array);
  glDeleteBuffers(1, &mesh.vertices);
  glDeleteBuffers(1, &mesh.indices);
  mesh.room = {};
}

void GlCanvas::follow() {
  complete_ = true;
  lacksRoom_ = false;
  for (auto& [key, mesh] : meshes_) mesh.wanted = false;
  if (scene_)
    for (const acre::ScenePart& part : *scene_) {
      const auto known = meshes_.find(part.mesh.get());
      if (known != meshes_.end() && known->second.walls == part.walls) known->second.wanted = true;
    }
  // What is left goes first: its bytes are wanted.
  for (auto at = meshes_.begin(); at != meshes_.end();) {
    if (at->second.wanted) {
      ++at;
      continue;
    }
    release(at->second);
    at = meshes_.erase(at);
  }
  int uploads = 0;
  if (scene_)
    for (const acre::ScenePart& part : *scene_) {
      if (meshes_.contains(part.mesh.get())) continue;
      if (++uploads > kUploads) {
        complete_ = false;
        break;
      }
      Mesh mesh;
      if (!upload(part, mesh)) {
        lacksRoom_ = true;
        break;
      }
      meshes_.emplace(part.mesh.get(), std::move(mesh));
    }
}

void GlCanvas::setInks() {
  glActiveTexture(GL_TEXTURE1);
  glBindTexture(GL_TEXTURE_1D, inks_);
  if (inksSet_ == style_.inks) return;
  inksSet_ = style_.inks;
  std::vector<uint8_t> rgb;
  for (const uint32_t ink : inksSet_)
    for (const int shift : {16, 8, 0, 24}) rgb.push_back(static_cast<uint8_t>(ink >> shift));
  glTexImage1D(GL_TEXTURE_1D, 0, GL_RGBA8, static_cast<GLsizei>(inksSet_.size()), 0, GL_RGBA,
      GL_UNSIGNED_BYTE, rgb.data());
  glTexParameteri(GL_TEXTURE_1D, GL_TEXTURE_MIN_FILTER, GL_NEAREST);
  glTexParameteri(GL_TEXTURE_1D, GL_TEXTURE_MAG_FILTER, GL_NEAREST);
}

void GlCanvas::drawGround(const QSize& pixels) {
  buffer_->bind();
  glViewport(0, 0, pixels.width(), pixels.height());
  glClearColor(0, 0, 0, 0);
  glClear(GL_COLOR_BUFFER_BIT | GL_DEPTH_BUFFER_BIT);
  glEnable(GL_DEPTH_TEST);
  glDepthFunc(GL_LESS);
  glDisable(GL_BLEND);
  glDisable(GL_CULL_FACE);
  const acre::Directions to = acre::directionsOf(eye_);
  const float turn[9] = {static_cast<float>(to.right.x), static_cast<float>(to.right.y),
      static_cast<float>(to.right.z), static_cast<float>(to.up.x), static_cast<float>(to.up.y),
      static_cast<float>(to.up.z), static_cast<float>(to.forward.x),
      static_cast<float>(to.forward.y), static_cast<float>(to.forward.z)};
  const QVector2D slopes = slopesOf(eye_, pixels);
  ground_->bind();
  ground_->setUniformValue("turn", QMatrix3x3(turn));
  ground_->setUniformValue("scale", QVector2D(1 / slopes.x(), 1 / slopes.y()));
  ground_->setUniformValue(
      "depths", QVector2D(kNearest, static_cast<float>(style_.distance) * 2 + 256));
  const acre::SideLight light = acre::sideLight(style_);
  ground_->setUniformValueArray("light", light.of, acre::kSides, 1);
  setInks();
  ground_->setUniformValue("inks", 1);
  ground_->setUniformValue("pixelSlope", 2 * slopes.x() / static_cast<float>(pixels.width()));
  float brick = 0;
  drawn_ = 0;
  for (auto& [key, mesh] : meshes_) {
    const acre::BlockMesh& of = *mesh.of;
    const double ox = static_cast<double>(of.x - eye_.cellX) - eye_.x;
    const double oz = static_cast<double>(of.z - eye_.cellZ) - eye_.z;
    const auto step = static_cast<double>(of.step);
    const double farX = std::max({ox, 0.0, -(ox + of.width * step)});
    const double farZ = std::max({oz, 0.0, -(oz + of.depth * step)});
    if (farX * farX + farZ * farZ > style_.distance * style_.distance) continue;
    ground_->setUniformValue("origin",
        QVector3D(static_cast<float>(ox), static_cast<float>(static_cast<double>(of.y) - eye_.y),
            static_cast<float>(oz)));
    ground_->setUniformValue("stepCells", static_cast<float>(of.step));
    constexpr int64_t kApart = 4096;  // Cells after which the pattern of holes begins again.
    ground_->setUniformValue("cellOf", QVector3D(static_cast<float>(acre::floorMod(of.x, kApart)),
                                           static_cast<float>(acre::floorMod(of.y, kApart)),
                                           static_cast<float>(acre::floorMod(of.z, kApart))));
    ground_->setUniformValue("brick", brick++);
    glBindVertexArray(mesh.array);
    glDrawElements(GL_TRIANGLES, mesh.count, GL_UNSIGNED_INT, nullptr);
    drawn_ += of.quads.size() + of.triangles.size();
  }
  glBindVertexArray(0);
  glActiveTexture(GL_TEXTURE0);
  ground_->release();
  buffer_->release();
}

void GlCanvas::drawInk(const QSize& pixels) {
  glViewport(0, 0, pixels.width(), pixels.height());
  glDisable(GL_DEPTH_TEST);
  const acre::Directions to = acre::directionsOf(eye_);
  // From right, up, forward back: the transposed turn.
  const float back[9] = {static_cast<float>(to.right.x), static_cast<float>(to.up.x),
      static_cast<float>(to.forward.x), static_cast<float>(to.right.y), static_cast<float>(to.up.y),
      static_cast<float>(to.forward.y), static_cast<float>(to.right.z), static_cast<float>(to.up.z),
      static_cast<float>(to.forward.z)};
  const QVector2D slopes = slopesOf(eye_, pixels);
  ink_->bind();
  glActiveTexture(GL_TEXTURE0);
  glBindTexture(GL_TEXTURE_2D, buffer_->texture());
  setInks();
  ink_->setUniformValue("there", 0);
  ink_->setUniformValue("inks", 1);
  ink_->setUniformValue("back", QMatrix3x3(back));
  ink_->setUniformValue("slopes", slopes);
  ink_->setUniformValue("pixelSlope", 2 * slopes.x() / static_cast<float>(pixels.width()));
  ink_->setUniformValue("within", QVector3D(static_cast<float>(eye_.x), static_cast<float>(eye_.y),
                                      static_cast<float>(eye_.z)));
  const int64_t chunk = std::max(1, style_.chunk);
  ink_->setUniformValue(
      "chunkPlace", QVector2D(static_cast<float>(acre::floorMod(eye_.cellX, chunk)),
                        static_cast<float>(acre::floorMod(eye_.cellZ, chunk))));
  ink_->setUniformValue("chunk", static_cast<float>(style_.chunk));
  ink_->setUniformValue("contours", static_cast<float>(style_.contours));
  ink_->setUniformValue("sea", static_cast<float>(style_.sea));
  ink_->setUniformValue("distance", static_cast<float>(style_.distance));
  ink_->setUniformValue("lamp", style_.lamp ? 1.0f : 0.0f);
  ink_->setUniformValue("outlines", style_.outlines ? 1.0f : 0.0f);
  ink_->setUniformValue("wireframe", style_.wireframe ? 1.0f : 0.0f);
  ink_->setUniformValue("skyInk", inkOf(style_.sky));
  ink_->setUniformValue("fogInk", inkOf(style_.fog));
  ink_->setUniformValue("lineInk", inkOf(style_.ink));
  glBindVertexArray(empty_);
  glDrawArrays(GL_TRIANGLES, 0, 3);
  glBindVertexArray(0);
  glActiveTexture(GL_TEXTURE0);
  ink_->release();
}

void GlCanvas::paintGL() {
  QElapsedTimer clock;
  clock.start();
  if (ready_ && fault_.isEmpty()) {
    const QSize pixels = size() * devicePixelRatioF();
    if (!buffer_ || buffer_->size() != pixels) {
      QOpenGLFramebufferObjectFormat format;
      format.setAttachment(QOpenGLFramebufferObject::Depth);
      format.setInternalTextureFormat(GL_RGBA32F);
      buffer_ = std::make_unique<QOpenGLFramebufferObject>(pixels, format);
      if (!buffer_->isValid()) fault_ = tr("OpenGL has no picture of that size.");
    }
    if (fault_.isEmpty()) {
      follow();
      drawGround(pixels);
      glBindFramebuffer(GL_FRAMEBUFFER, defaultFramebufferObject());
      drawInk(pixels);
      glFinish();
    }
  }
  millis_ = static_cast<double>(clock.nsecsElapsed()) / 1e6;
  QPainter p(this);
  overlay_(p);
  p.end();
  emit painted();
}

}  // namespace app

#include "moc_gl_canvas.cpp"
