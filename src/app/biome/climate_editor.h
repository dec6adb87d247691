/// Editor of the Climate stage: temperature and moisture as fields, the units they are told in, and
/// how far they go together.
#pragma once

#include <QLineEdit>

#include "app/biome/equalise_panel.h"
#include "app/edit/heights_editor.h"

namespace app {

class ClimateEditor : public Editor {
  Q_OBJECT

 public:
  ClimateEditor(Document& document, Statistics& statistics, QWidget* parent = nullptr);
  void refresh() override;
  HeightsEditor& fields() { return *fields_; }
  void setView(const MapGeometry& view) override {
    Editor::setView(view);
    fields_->setView(view);
  }
  /// Shows the control at a JSON pointer of the stage.
  void showPointer(const std::string& pointer) override;
  QString figures() const override;

 private:
  acre::ClimateAxis& axisOf(acre::Recipe& recipe) const;
  const acre::ClimateAxis& axis() const;
  void refreshFigures();

  Statistics& statistics_;
  QWidget* off_;
  QWidget* on_;
  QLabel* correlation_;
  EqualisePanel* equalise_;
  HeightsEditor* fields_;
};

}  // namespace app
