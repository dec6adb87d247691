/// The histogram with stakes: how the world's heights are spread, and where thresholds stand in it.
#pragma once

#include <QWidget>
#include <memory>
#include <string>
#include <vector>

#include "app/document/document.h"
#include "field/distribution.h"

namespace app {

/// 128 bins over the range reached; values above, shares below. Thresholds of the recipe (the sea
/// and the upper ends of bands) are stakes. They push each other and never cross. A stake holds its
/// value (the share follows the seed) or its share (the value follows).
/// Keys: Tab and Shift+Tab choose a stake, Left and Right move it by a bin, V and S say what it
/// holds, Insert splits the band below it, Del removes it, Enter types it.
class Histogram : public QWidget {
  Q_OBJECT

 public:
  explicit Histogram(Document& document, QWidget* parent = nullptr);

  /// of: what the shares are of, in words. Nothing: still being measured.
  void setDistribution(std::shared_ptr<const acre::Distribution> distribution, const QString& of);
  /// Stakes belong to the heights; other fields show their bins alone.
  void setStakesShown(bool shown);
  void refresh();
  /// The value under a pointer elsewhere; nothing to take it away.
  void setHair(std::optional<double> value);

  /// -1: the sea; else the band whose upper end it is.
  struct Stake {
    int band = -1;
    std::string id;
    double value = 0;
    bool heldShare = false;
    QString words;
  };
  const std::vector<Stake>& stakes() const { return stakes_; }
  int chosenStake() const { return chosen_; }
  double xOf(double value) const;
  QRectF plot() const;
  /// Moves a stake; neighbours that are in the way go along.
  void moveStake(int stake, double value, const QString& mergeKey = {});
  /// Puts a stake where a share of the world lies below, and holds what it held before.
  void setShare(int stake, double share);
  void hold(int stake, bool share);

  QSize sizeHint() const override { return {370, 152}; }

 signals:
  /// begun: what was typed already.
  void typeRequested(int stake, const QString& begun);
  void hoveredValue(bool inside, double value);
  void refused(const QString& reason);

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void mouseDoubleClickEvent(QMouseEvent*) override;
  void leaveEvent(QEvent*) override;
  void keyPressEvent(QKeyEvent*) override;
  void focusInEvent(QFocusEvent*) override { update(); }
  void focusOutEvent(QFocusEvent*) override { update(); }
  bool focusNextPrevChild(bool next) override;

 private:
  int stakeAt(QPointF position) const;
  QRectF strip() const;  ///< Of bands, below the plot.
  void paintValues(QPainter& p) const;
  void paintBands(QPainter& p) const;
  void paintShares(QPainter& p) const;
  void paintStakes(QPainter& p) const;
  double valueAt(double x) const;
  double binWidth() const;
  QString wordsOf(const Stake& stake) const;
  bool stands(const Stake& stake) const;
  void keepAhead();
  void splitBand();
  void removeStake();
  void choose(int stake);

  Document& document_;
  std::shared_ptr<const acre::Distribution> distribution_;
  std::vector<uint32_t> bins_;
  QString of_;
  std::vector<Stake> stakes_;
  bool stakesShown_ = true;
  int chosen_ = 0;
  int dragged_ = -1;
  bool ahead_ = false;  // The stakes are those of a recipe whose world is still being made.
  std::optional<double> hair_;
};

}  // namespace app
