#include "app/water/water_editor.h"

#include "app/edit/lists.h"
#include "app/edit/shape.h"
#include "app/look/look.h"

namespace app {
namespace {

using acre::Recipe;
using acre::Rivers;

constexpr int kAcross = 2;  // Numbers a row.

}  // namespace

WaterEditor::WaterEditor(Document& document, QWidget* parent) : Editor(document, parent) {
  column_ = new QVBoxLayout(this);
  column_->setContentsMargins(16, 12, 16, 12);
  // Rivers are as wide as they are: coarser than this little would be seen of them.
  previews_->setPicture([](const acre::World& world, const MapGeometry& view) {
    return fromAbove(world, {}, view, true);
  });
  refresh();
}

void WaterEditor::refresh() {
  const Recipe& r = document_.recipe();
  const std::string shape = shapeOf(*r.rivers) + namesOf(r.materials);
  if (shape != built_) {
    built_ = shape;
    rebuild();
  }
  refreshControls();
}

void WaterEditor::rebuild() {
  QVBoxLayout* column = newBody(column_, 1);
  const Rivers& rivers = *document_.recipe().rivers;
  if (!rivers.on) {
    addSwitch(column,
        tr("The water is switched off. On, land drains to the sea: springs become rivers that run "
           "downhill through valleys of their own, and hollows fill to lakes."),
        QStringLiteral("rivers.switch"), [this] { emit switchRequested(); });
  } else {
    const auto made = form<Rivers>(
        rivers, [](Recipe& r) { return &*r.rivers; }, QStringLiteral("rivers"), tr("the water"));
    column->addWidget(heading(tr("Rivers")));
    made.numbers(column, kAcross, &Rivers::spring, &Rivers::growth, &Rivers::widest,
        &Rivers::meander, &Rivers::depth);
    section(column, tr("Lakes"));
    made.numbers(column, kAcross, &Rivers::lakes, &Rivers::closed);
    section(column, tr("Ground"));
    made.numbers(column, kAcross, &Rivers::carve, &Rivers::valley, &Rivers::sides);
    column->addWidget(caption(
        tr("Ground is lowered, never raised. Strata and slopes are laid on what is left.")));
    section(column, tr("Materials"));
    const auto material = [&](const QString& name, std::string Rivers::*member,
                              const QString& none) {
      constexpr int kNames = 96;  // One edge for all choices.
      auto* label = new QLabel(name);
      label->setFixedWidth(kNames);
      Row(column).add(label).add(made.material(member, {{none, {}}}), 1);
    };
    const QString bands = tr("as the bands say");
    material(tr("Water is"), &Rivers::water, tr("none: one sees the bed"));
    material(tr("Its bed is"), &Rivers::bed, bands);
    material(tr("The bank is"), &Rivers::bank, bands);
    material(tr("Wet ground is"), &Rivers::wet, bands);
    made.numbers(column, kAcross, &Rivers::bankReach, &Rivers::wetReach);
  }
  column->addStretch(1);
}

void WaterEditor::showPointer(const std::string& pointer) {
  // "/rivers/KEY".
  const QString key = QString::fromStdString(pointer).section(QLatin1Char('/'), 2, 2);
  if (auto* control = findChild<QWidget*>(QStringLiteral("rivers.") + key)) control->setFocus();
}

}  // namespace app
