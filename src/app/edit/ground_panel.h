/// Controls of ground made of blocks: overhangs, layers by depth, beds of rock, ores, the sea.
#pragma once

#include <QLabel>
#include <QToolButton>
#include <map>

#include "app/document/statistics.h"
#include "app/edit/editor.h"

namespace app {

class GroundPanel : public Editor {
  Q_OBJECT

 public:
  GroundPanel(Document& document, const Statistics& statistics, QWidget* parent = nullptr);
  void refresh() override;
  /// What was found of the ores.
  void refreshFound();

 private:
  void rebuild();
  void addOverhang(QVBoxLayout* column);
  void addLayers(QVBoxLayout* column);
  void addRock(QVBoxLayout* column);
  void addOres(QVBoxLayout* column);
  void addOre(QVBoxLayout* column, size_t index);
  void addWater(QVBoxLayout* column);

  const Statistics& statistics_;
  std::map<std::string, QLabel*> found_;  // By ore.
  QVBoxLayout* column_;
  std::string built_;  // What the rows were built for.
};

}  // namespace app
