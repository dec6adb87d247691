/// Where a tree stands on the bench: turned by dragging, leaning where the wind is dragged.
#pragma once

#include <QImage>
#include <QWidget>
#include <memory>
#include <optional>

#include "app/document/courier.h"
#include "app/document/worker.h"
#include "app/look/look.h"
#include "object/tree.h"
#include "recipe/object_recipe.h"
#include "view/scene.h"

namespace app {

/// What is to be seen of a style.
struct TreeRequest {
  acre::TreeStyle style;
  std::vector<acre::Material> materials;
  uint64_t seed = 0;
  uint64_t variant = 0;
  int rounds = INT32_MAX;  ///< That it has grown; more than it takes: all.
  double wind = 0;         ///< 0 to 1.
  bool points = false, wood = true, leaves = true, sheet = false;
  double slice = 1;  ///< Share that is left of it, from the north.
  double yaw = 20, pitch = -8;
  bool operator==(const TreeRequest&) const = default;
};

/// What was found while it was drawn.
struct TreeTold {
  int rounds = 0, allRounds = 0;
  size_t nodes = 0, wood = 0, leaves = 0;
  size_t points = 0, gone = 0;
};

class TreeCanvas : public QWidget {
  Q_OBJECT

 public:
  static constexpr int kAcross = 4, kOnSheet = 16;

  explicit TreeCanvas(QWidget* parent = nullptr);
  ~TreeCanvas() override;

  /// Draws it as soon as what is drawn now is done.
  void show_(const TreeRequest& request);
  const TreeRequest& request() const { return request_; }
  const TreeTold& told() const { return told_; }
  bool settled() const { return !drawing_ && !again_; }
  const QImage& picture() const { return picture_; }
  /// Where the wind is dragged.
  QRect rose() const;
  QSize sizeHint() const override { return {600, 400}; }

 signals:
  void drawn();
  void turned(double yaw, double pitch);
  /// toward: degrees from north. during: more will follow.
  void windDragged(double strength, double toward, bool during);
  /// Of a sheet.
  void chosen(int place);
  void stepped(int rounds);

 protected:
  void paintEvent(QPaintEvent*) override;
  void resizeEvent(QResizeEvent*) override;
  void changeEvent(QEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void wheelEvent(QWheelEvent*) override;

 private:
  /// A picture, and what is drawn over it in pixels of it.
  struct Picture;
  static Picture drawnOf(const TreeRequest& request, QSize size, const look::Tokens& inks);
  void draw();
  void dragWind(QPointF at, bool during);
  void paintRose(QPainter& p) const;

  TreeRequest request_;
  TreeTold told_;
  QImage picture_;
  bool drawing_ = false, again_ = false;
  enum class Drag { Nothing, Turn, Wind };
  Drag drag_ = Drag::Nothing;
  QPointF last_, pressed_;
  Worker worker_;
  std::shared_ptr<Courier<TreeCanvas>> courier_;
};

}  // namespace app
