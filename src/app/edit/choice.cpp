#include "app/edit/choice.h"

#include <QPainter>
#include <QWheelEvent>
#include <algorithm>

#include "app/edit/swatch.h"
#include "app/look/look.h"

namespace app {

Choice::Choice(QWidget* parent) : QComboBox(parent) {
  setFocusPolicy(Qt::StrongFocus);
}

void Choice::paintEvent(QPaintEvent* e) {
  QComboBox::paintEvent(e);
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  p.setPen(QPen(isEnabled() ? look::tokens().ink : look::tokens().edge, 1.5));
  const QPointF tip(width() - 11, height() / 2.0 + 2);
  p.drawLine(tip - QPointF(4, 4), tip);
  p.drawLine(tip, tip + QPointF(4, -4));
}

void Choice::wheelEvent(QWheelEvent* e) {
  if (e->modifiers() & Qt::AltModifier)
    QComboBox::wheelEvent(e);
  else
    e->ignore();
}

void Choice::setInk(int item, const std::optional<acre::Colour>& ink) {
  constexpr int kInkRole = Qt::UserRole + 2;
  const QColor colour = ink ? QColor(ink->red, ink->green, ink->blue) : QColor(Qt::transparent);
  // By night its edge is another too.
  const QString shown = colour.name(QColor::HexArgb) + look::tokens().edge.name();
  if (itemData(item, kInkRole).toString() == shown) return;
  setItemIcon(item, ink ? swatch(*ink) : swatch(QBrush(look::hatch())));
  setItemData(item, shown, kInkRole);
}

/// Of what an item's swatch shows.
static constexpr int kColourRole = Qt::UserRole + 1;

void offerMaterials(QComboBox& choice, const acre::Recipe& recipe) {
  const auto colourOf = [](const acre::Material& m) {
    return QColor(m.colour.red, m.colour.green, m.colour.blue);
  };
  const auto& materials = recipe.materials;
  bool same = choice.count() == static_cast<int>(materials.size());
  for (int i = 0; same && i < choice.count(); ++i) {
    const acre::Material& m = materials[static_cast<size_t>(i)];
    same = choice.itemData(i).toString() == QString::fromStdString(m.id) &&
           choice.itemText(i) == QString::fromStdString(m.name) &&
           choice.itemData(i, kColourRole).value<QColor>() == colourOf(m);
  }
  if (same) return;
  const QVariant chosen = choice.currentData();
  choice.clear();
  int first = -1;
  for (const acre::Material& m : materials) {
    if (first < 0 && m.state == acre::MaterialState::Solid) first = choice.count();
    choice.addItem(swatch(m.colour), QString::fromStdString(m.name), QString::fromStdString(m.id));
    choice.setItemData(choice.count() - 1, colourOf(m), kColourRole);
  }
  const int kept = chosen.isValid() ? choice.findData(chosen) : -1;
  choice.setCurrentIndex(kept >= 0 ? kept : std::max(first, 0));
}

}  // namespace app

#include "moc_choice.cpp"
