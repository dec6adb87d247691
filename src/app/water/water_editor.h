/// Editor of the stage Water: springs, lakes, channels and valleys, and what they make of the view.
#pragma once

#include "app/edit/editor.h"
#include "app/edit/view_figures.h"
#include "audit/water_summary.h"
#include "recipe/water_recipe.h"

namespace app {

class WaterEditor : public Editor {
  Q_OBJECT

 public:
  explicit WaterEditor(Document& document, QWidget* parent = nullptr);
  void refresh() override;
  void showPointer(const std::string& pointer) override;
  QString figures() const override;

  /// The figures are those of the present world and view.
  bool settled() const { return inView_.settled(); }
  /// Nothing before they were measured once, or with the water off.
  const std::optional<acre::WaterSummary>& summary() const;

 private:
  void rebuild();
  void addCourses(QVBoxLayout* column, const acre::RiverCourses& courses);
  void showFigures();

  QVBoxLayout* column_;
  std::string built_;
  QLabel *found_ = nullptr, *ways_ = nullptr;
  struct InView {
    std::optional<acre::WaterSummary> summary;
    QString ways;  ///< How many of them succeed.
  };
  ViewFigures<InView> inView_;
};

}  // namespace app
