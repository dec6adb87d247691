/// The layers of a field as waves along the section line, to be taken hold of.
#pragma once

#include <QWidget>
#include <memory>
#include <stop_token>
#include <string>
#include <vector>

#include "app/document/courier.h"
#include "app/document/document.h"
#include "app/edit/wave_values.h"
#include "app/map/geometry.h"

namespace app {

/// The top lane is the sum, the others the layers in their order. In a lane: drag up or down for
/// the amplitude; drag the right end of the bracket for the feature width, whose left end stays in
/// place. Shift is fine, Esc takes back. Keys: Up and Down choose a lane, Left and Right a handle,
/// + and - change it, Alt+Up and Alt+Down reorder, Space switches, Del deletes, Ctrl+D duplicates,
/// Enter goes to the numbers.
class WavesView : public QWidget {
  Q_OBJECT

 public:
  explicit WavesView(Document& document, QWidget* parent = nullptr);
  ~WavesView() override;

  void setField(const std::string& fieldId);
  void setLine(const SectionLine& line);
  /// The recipe or the world changed.
  void refresh();

  void choose(const std::string& layerId);
  const std::string& chosen() const { return chosen_; }
  /// The layer that the map shows alone; empty: all.
  void setAlone(const std::string& layerId);
  void setKeepPlace(bool keep) { keepPlace_ = keep; }
  void setTrueScale(bool same);
  /// A place of the line that the pointer is over elsewhere, 0 ... 1; negative: none.
  void setHair(double at);
  /// What is wrong with a layer, in words; drawn in its lane.
  void setFaults(const std::vector<std::pair<std::string, QString>>& faults);

  QSize sizeHint() const override;
  QRect laneRect(int layer) const;      ///< -1: the sum.
  QRectF bracketRect(int layer) const;  ///< Empty without one.
  bool settled() const { return shown_ == request_; }

 signals:
  void chosenChanged();
  void aloneRequested(const QString& layerId);
  void numbersRequested();
  void hovered(double at);  ///< Place along the line, 0 ... 1; negative: gone.
  void deleteRequested(const QString& layerId);

 protected:
  void paintEvent(QPaintEvent*) override;
  void resizeEvent(QResizeEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void leaveEvent(QEvent*) override;
  void keyPressEvent(QKeyEvent*) override;
  void focusInEvent(QFocusEvent*) override { update(); }
  void focusOutEvent(QFocusEvent*) override { update(); }
  bool event(QEvent*) override;

 private:
  static constexpr int kGutter = 104;  ///< Left of the waves: names, signs and switches.
  static constexpr int kSumLane = 72;
  static constexpr int kLane = 66;

  enum class Handle { Amplitude, Width };
  struct Drag {
    bool pressed = false;
    bool moving = false;
    Handle handle = Handle::Amplitude;
    QPointF at;
    acre::Layer before;
    std::vector<float> ghost;
    double perPixel = 1;              ///< Of what is drawn, along the handle's direction.
    std::pair<double, double> scale;  ///< Of the lane, which stays while the wave is held.
    double held = 0;  ///< What the wave brings where it is held, but for its offset.
  };

  const acre::FieldRecipe* field() const;
  const acre::Layer* layerAt(int index) const;
  int indexOf(const std::string& layerId) const;
  int laneAt(QPointF position) const;
  QRectF waveArea(int layer) const;
  bool onBracketEnd(int layer, QPointF position) const;
  double crestAt(int layer) const;  ///< x of the first crest of the first octave, in pixels.
  acre::Cell cellAt(double pixel) const;
  std::pair<double, double> scaleOf(int layer) const;
  bool request();
  void paintLane(QPainter& p, int layer);
  void paintBracket(QPainter& p, int index, const acre::Layer& layer);
  static void paintFault(QPainter& p, const QRectF& area, const QString& words);
  double hairAt() const;
  void paintGutter(QPainter& p, int layer, const QRect& lane);
  void change(
      const QString& name, const std::function<void(acre::Layer&)>& edit, const QString& key);
  void dragTo(QPointF position, bool fine);
  void setWidth(acre::Layer& layer, double width, acre::Cell fixed) const;
  void switchChosen();
  void reorder(int by);
  QString describe(int layer) const;

  Document& document_;
  std::string fieldId_ = acre::kHeightsId;
  std::string chosen_;
  std::string alone_;
  SectionLine line_;
  Waves waves_;
  Drag drag_;
  Handle handle_ = Handle::Amplitude;
  bool keepPlace_ = true;
  bool trueScale_ = false;
  double hair_ = -1;
  std::vector<std::pair<std::string, QString>> faults_;
  std::shared_ptr<Courier<WavesView>> courier_;
  std::stop_source stop_;
  /// What the waves are made of.
  struct Request {
    std::shared_ptr<const acre::World> world;
    std::string field;
    SectionLine line;
    int count = 0;
    bool operator==(const Request&) const = default;
  };
  Request requested_;
  uint64_t request_ = 0;
  uint64_t shown_ = 0;
};

}  // namespace app
