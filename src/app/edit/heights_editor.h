/// Editor of the Heights stage: the layers, each with its wave and its numbers.
#pragma once

#include <QLineEdit>
#include <memory>
#include <stop_token>

#include "app/document/courier.h"
#include "app/edit/editor.h"
#include "app/edit/lane.h"
#include "app/map/geometry.h"

namespace app {

class HeightsEditor : public Editor {
  Q_OBJECT

 public:
  explicit HeightsEditor(Document& document, QWidget* parent = nullptr);
  ~HeightsEditor() override;

  /// Follows the document: values alone when the layers are the same, else all controls anew.
  void refresh();
  /// The waves are drawn along the middle row of this view.
  void setView(const MapGeometry& geometry);

 protected:
  void showEvent(QShowEvent*) override;

 private:
  struct Panel {
    std::string id;
    bool noise;
    Tick* on;
    Choice* combine;
    QLineEdit* name;
    Choice* fractal;
    Choice* sampling;
    Lane* lane;
    std::vector<QWidget*> fbmOnly;
    std::vector<QWidget*> placed;  // Shown with explicit sampling.
  };

  void rebuild();
  void addPanel(const acre::Layer& layer, size_t place, size_t count);
  void addNumber(QGridLayout* grid, int row, int column, Panel& panel, const QString& label,
                 const QString& key, const NumberSpec& spec, double acre::GradientSource::*member,
                 const QString& toolTip);
  void addLayer(bool noise);
  void requestWaves();
  void showWaves(uint64_t request, std::vector<std::vector<float>> waves, int64_t step);

  QVBoxLayout* column_;
  QWidget* body_ = nullptr;
  QLabel* reach_;
  std::vector<Panel> panels_;
  MapGeometry geometry_;
  std::shared_ptr<Courier<HeightsEditor>> courier_;
  std::stop_source stop_;
  uint64_t request_ = 0;
};

}  // namespace app
