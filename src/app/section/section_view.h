/// The vertical cut along the map's line A-B.
#pragma once

#include <QImage>
#include <QPainter>
#include <QTimer>
#include <QWidget>
#include <stop_token>

#include "app/document/courier.h"
#include "app/document/document.h"
#include "app/map/geometry.h"
#include "app/overlay/overlay.h"
#include "app/section/long_profile.h"
#include "output/section.h"

namespace app {

class SectionView : public QWidget {
  Q_OBJECT

 public:
  explicit SectionView(Document& document, QWidget* parent = nullptr);
  ~SectionView() override;

  /// Follows the document's world.
  void refresh();
  void setLine(const SectionLine& line);
  /// Pixels from the widget's left edge to A and to B, so that the cut keeps the map's x axis; the
  /// whole width inside the margins without.
  void setSpan(std::optional<std::pair<double, double>> span);
  /// A place along the line that the pointer is over elsewhere, 0 ... 1; negative: none.
  void setHair(double at);

  double exaggeration() const;
  /// Shows altitudes from low to high.
  void setRange(double low, double high);
  std::pair<double, double> range() const { return {low_, high_}; }
  /// All that exists, at the map's scale if that fits.
  void resetRange();
  /// The picture shows the present world and line.
  bool settled() const { return !asked_ && !pause_.isActive(); }
  const std::optional<acre::Section>& section() const { return section_; }
  QRect pictureRect() const;

  /// Lies over the cut while a river is chosen.
  LongProfile& river() { return *river_; }

  /// What lies over the ground, and shows where the cut passes it.
  void setOverlays(Overlays* overlays);

  /// Pen patterns of materials.
  void setPatterns(bool on);

  /// While on, clicks change blocks instead of asking about them.
  void setStriking(bool on);

 signals:
  void hovered(double at, const QString& what);  ///< at < 0: nothing.
  void plumbRequested(qint64 x, qint64 y, qint64 z);
  void struck(qint64 x, qint64 y, qint64 z);  ///< A click, while striking.
  void refused(const QString& reason);
  void cutChanged();  ///< Another line, or other altitudes.

 protected:
  void paintEvent(QPaintEvent*) override;
  void resizeEvent(QResizeEvent*) override;
  void showEvent(QShowEvent*) override;
  void changeEvent(QEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void leaveEvent(QEvent*) override;
  void wheelEvent(QWheelEvent*) override;
  void keyPressEvent(QKeyEvent*) override;
  bool event(QEvent*) override;

 private:
  CutGeometry geometry() const;
  double hairAt(const CutGeometry& cut) const { return cut.x0 + hair_ * (cut.x1 - cut.x0); }
  /// The cell of the cut under a pixel, and how far along it, 0 ... 1; nothing beside it.
  struct Hit {
    double at;
    int32_t column;
    acre::Cell cell;
    int64_t y;
  };
  std::optional<Hit> hitAt(QPointF position) const;
  void paintCut(QPainter& p);
  void paintAltitudes(QPainter& p) const;

  bool striking_ = false;
  bool patterns_ = true;
  std::shared_ptr<const acre::GroundScale> scale_;  ///< Of the world.
  void ask();
  void request();
  void zoom(double factor, double row);
  double altitudeAt(double y) const;

  Document& document_;
  LongProfile* river_;
  std::shared_ptr<const acre::World> world_;
  SectionLine line_;
  std::optional<std::pair<double, double>> span_;
  double low_ = -64, high_ = 128;
  bool chosen_ = false;  // The range, by hand.
  double hair_ = -1;
  Overlays* overlays_ = nullptr;
  std::optional<acre::Section> section_;
  QImage picture_;
  bool asked_ = false;
  uint64_t wanted_ = 0;
  std::stop_source stop_;
  QTimer pause_;
  std::optional<QPointF> pressAt_;
  QPointF lastAt_;
  bool dragging_ = false;
  std::shared_ptr<Courier<SectionView>> courier_;
};

}  // namespace app
