/// A drop-down choice with a plain arrow in the interface's own ink.
#pragma once

#include <QComboBox>
#include <optional>

#include "recipe/recipe.h"

namespace app {

class Choice : public QComboBox {
  Q_OBJECT

 public:
  explicit Choice(QWidget* parent = nullptr);

  /// A swatch before an item; nothing: hatched. Drawn again only when it is another: forms follow
  /// every change of the recipe.
  void setInk(int item, const std::optional<acre::Colour>& ink);

 protected:
  void paintEvent(QPaintEvent*) override;
  void wheelEvent(QWheelEvent*) override;  ///< The plain wheel scrolls the column.
};

/// Fills a choice with the materials of a recipe, by name with the id as data, if they are others
/// than it holds, called otherwise, or of another colour. The chosen one stays while it is there;
/// else the first that is solid is chosen.
void offerMaterials(QComboBox& choice, const acre::Recipe& recipe);

}  // namespace app
