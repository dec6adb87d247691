/// How water fills a hollow and leaves it, step by step, on the map and in figures.
#pragma once

#include <QLabel>
#include <QWidget>
#include <memory>
#include <stop_token>

#include "app/document/courier.h"
#include "app/document/document.h"
#include "app/edit/transport.h"
#include "app/overlay/overlay.h"
#include "audit/basin_replay.h"

namespace app {

class BasinPanel : public QWidget {
  Q_OBJECT

 public:
  explicit BasinPanel(Document& document, QWidget* parent = nullptr);
  ~BasinPanel() override;

  /// Records the hollow that the ground about a cell leads down to.
  void record(acre::Cell near);
  /// Records the same place anew in another world, or asks for one.
  void worldChanged();
  bool settled() const { return !recording_; }
  /// Nothing before one was recorded.
  const acre::BasinReplay* replay() const { return replay_.get(); }
  Transport& transport() { return *transport_; }
  /// A key that it may know.
  bool press(const QKeyEvent& key) { return replay_ && transport_->press(key); }

 signals:
  /// Wants record() for where the map's viewpoint is.
  void recordRequested();
  /// What is done up to the present step; nothing: no more.
  void shown(std::shared_ptr<const MapOverlay> picture);

 protected:
  void showEvent(QShowEvent*) override;
  void hideEvent(QHideEvent*) override;

 private:
  void showStep();

  Document& document_;
  std::shared_ptr<Courier<BasinPanel>> courier_;
  std::shared_ptr<const acre::World> world_;
  std::optional<acre::Cell> place_;
  std::shared_ptr<const acre::BasinReplay> replay_;
  std::stop_source stop_;
  uint64_t request_ = 0;
  bool recording_ = false;
  QLabel* headline_;
  QLabel* figures_;
  QWidget* body_;
  Transport* transport_;
};

/// The steps of a hollow up to one.
class BasinPicture : public MapOverlay {
 public:
  BasinPicture(std::shared_ptr<const acre::BasinReplay> replay, size_t step)
      : replay_(std::move(replay)), step_(step) {}
  void paint(QPainter& p, const MapGeometry& view) const override;
  QString at(QPointF place, const MapGeometry& view) const override;

 private:
  std::shared_ptr<const acre::BasinReplay> replay_;
  size_t step_;
};

}  // namespace app
