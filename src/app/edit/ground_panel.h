/// Controls of ground made of blocks: overhangs, layers by depth, beds of rock, ores, the sea.
#pragma once

#include <QToolButton>

#include "app/edit/editor.h"

namespace app {

class GroundPanel : public Editor {
  Q_OBJECT

 public:
  explicit GroundPanel(Document& document, QWidget* parent = nullptr);
  void refresh();

 private:
  void rebuild();
  void addOverhang(QVBoxLayout* column);
  void addLayers(QVBoxLayout* column);
  void addRock(QVBoxLayout* column);
  void addOres(QVBoxLayout* column);
  void addWater(QVBoxLayout* column);
  /// A choice among the materials; set(recipe, id).
  Choice* materialChoice(const QString& name, const QString& step, const std::string& current,
                         const std::vector<std::pair<QString, std::string>>& first,
                         std::function<void(acre::Recipe&, const std::string&)> set);
  QToolButton* deleteButton(const QString& name, const QString& tip,
                            std::function<void(acre::Recipe&)> edit);

  QVBoxLayout* column_;
  QWidget* body_ = nullptr;
  std::string built_;  // What the rows were built for.
};

}  // namespace app
