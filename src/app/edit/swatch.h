/// Small squares of colour, and small buttons.
#pragma once

#include <QIcon>
#include <QPainter>
#include <QToolButton>

#include "app/look/look.h"
#include "recipe/recipe.h"

namespace app {

inline QIcon swatch(const QBrush& ink) {
  QPixmap pixmap(14, 14);
  QPainter p(&pixmap);
  p.fillRect(pixmap.rect(), ink);
  p.setPen(look::tokens().edge);
  p.drawRect(0, 0, 13, 13);
  return pixmap;
}
inline QIcon swatch(const acre::Colour& colour) {
  return swatch(QBrush(QColor(colour.red, colour.green, colour.blue)));
}

inline QToolButton* smallButton(const QString& text, const QString& name, const QString& tip) {
  auto* button = new QToolButton;
  button->setText(text);
  button->setProperty("role", "small");
  button->setObjectName(name);
  button->setToolTip(tip);
  button->setAccessibleName(tip);
  return button;
}

/// The same for a word.
inline QToolButton* wordButton(const QString& text, const QString& name, const QString& tip) {
  QToolButton* button = smallButton(text, name, tip);
  button->setProperty("role", "word");
  return button;
}

}  // namespace app
