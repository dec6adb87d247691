/// Editor of the stage Water: springs, lakes, channels and valleys, and what they make of the view.
#pragma once

#include <QTimer>
#include <stop_token>

#include "app/document/courier.h"
#include "app/edit/editor.h"
#include "audit/water_summary.h"
#include "recipe/water_recipe.h"

namespace app {

class WaterEditor : public Editor {
  Q_OBJECT

 public:
  explicit WaterEditor(Document& document, QWidget* parent = nullptr);
  ~WaterEditor() override;
  void refresh() override;
  void showPointer(const std::string& pointer) override;
  void setView(const MapGeometry& view) override;
  QString figures() const override;

  /// The figures are those of the present world and view.
  bool settled() const { return !measuring_ && !pause_->isActive(); }
  /// Nothing before they were measured once, or with the water off.
  const std::optional<acre::WaterSummary>& summary() const { return summary_; }

 protected:
  void showEvent(QShowEvent*) override;
  void hideEvent(QHideEvent*) override;

 private:
  void rebuild();
  void addCourses(QVBoxLayout* column, const acre::RiverCourses& courses);
  /// Asks for the figures of the view's middle when they are not those that are there.
  void measure();
  void showFigures();

  QVBoxLayout* column_;
  std::string built_;
  QLabel *found_ = nullptr, *ways_ = nullptr;
  QString waysFound_;
  QTimer* pause_;
  std::optional<MapGeometry> view_;
  std::shared_ptr<Courier<WaterEditor>> courier_;
  std::stop_source stop_;
  std::shared_ptr<const acre::World> measured_;
  acre::Rect measuredArea_;
  std::optional<acre::WaterSummary> summary_;
  bool measuring_ = false;
  bool part_ = false;  // The view is larger than what is measured.
};

}  // namespace app
