/// Editor of the stage Water: springs, lakes, channels and valleys.
#pragma once

#include "app/edit/editor.h"
#include "recipe/water_recipe.h"

namespace app {

class WaterEditor : public Editor {
  Q_OBJECT

 public:
  explicit WaterEditor(Document& document, QWidget* parent = nullptr);
  void refresh() override;
  void showPointer(const std::string& pointer) override;

 private:
  void rebuild();

  QVBoxLayout* column_;
  std::string built_;
};

}  // namespace app
