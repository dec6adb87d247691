#include "app/water/water_editor.h"

#include <cmath>

#include "app/edit/lists.h"
#include "app/edit/shape.h"
#include "app/look/look.h"
#include "recipe/validate.h"

namespace app {
namespace {

using acre::Recipe;
using acre::Rivers;

constexpr int kAcross = 2;  // Numbers a row.

QString whole(double v) {
  return look::wholeNumber(std::llround(v));
}

/// Whether ways could run along the borders of regions.
bool hasBorders(const Recipe& recipe) {
  return recipe.biomes.on && recipe.biomes.regions.on;
}

QString linesOf(const acre::WaterSummary& summary) {
  QStringList out;
  for (const std::string& line : summaryLines(summary)) out << QString::fromStdString(line);
  return out.join(QLatin1Char('\n'));
}

}  // namespace

WaterEditor::WaterEditor(Document& document, QWidget* parent)
    : Editor(document, parent),
      inView_(this, document,
          {acre::summaryPart, [](const acre::World& world) { return planOf(world).water(); },
              [](const acre::World& world, const acre::Rect& area,
                  const std::stop_token& stop) -> std::optional<InView> {
                auto found = acre::waterSummary(world, area, stop);
                auto ways = acre::findWays(world, area, stop);
                InView out;
                if (found) out.summary = *found;
                if (ways) out.ways = QString::fromStdString(ways->text());
                return out;
              },
              [this](bool fresh) {
                showFigures();
                if (fresh) emit figuresChanged();
              }}) {
  followView(inView_);
  column_ = new QVBoxLayout(this);
  column_->setContentsMargins(16, 12, 16, 12);
  // Rivers are as wide as they are: coarser than this little would be seen of them.
  previews_->setPicture([](const acre::World& world, const MapGeometry& view) {
    return fromAbove(world, {}, view, true);
  });
  refresh();
}

const std::optional<acre::WaterSummary>& WaterEditor::summary() const {
  static const std::optional<acre::WaterSummary> kNone;
  return inView_.found() ? inView_.found()->summary : kNone;
}

void WaterEditor::refresh() {
  const Recipe& r = document_.recipe();
  std::string shape = shapeOf(*r.rivers) + namesOf(r.materials);
  const acre::RiverCourses& ways = r.rivers->courses;
  for (const bool one :
      {ways.any(), ways.borders, ways.field.empty(), hasBorders(r), isOneRegion(boundsOf(r.frame))})
    shape += one ? '1' : '0';
  for (const acre::FieldRecipe* field : fieldsBeforeWater(r)) shape += field->id + field->name;
  if (shape != built_) {
    built_ = shape;
    rebuild();
  }
  refreshControls();
  if (isVisible()) inView_.refresh();
}

// ---- what it makes of the view -----------------------------------------------------------------

QString WaterEditor::figures() const {
  if (!summary()) return {};
  const auto count = [](size_t n, const QString& one, const QString& more) {
    return n == 1 ? one : more.arg(n);
  };
  return tr("%1 and %2 in view")
      .arg(count(summary()->rivers.size(), tr("1 river"), tr("%1 rivers")),
          count(summary()->lakes.size(), tr("1 lake"), tr("%1 lakes")));
}

void WaterEditor::showFigures() {
  if (!found_) return;
  const QString waysFound = inView_.found() ? inView_.found()->ways : QString();
  if (ways_)
    ways_->setText(waysFound.isEmpty() ? QString()
                                       : tr("In view: %1. Their obstacles are an overlay of the "
                                            "map.")
                                             .arg(waysFound));
  found_->setEnabled(!inView_.measuring());
  if (!summary())
    return found_->setText(inView_.measuring() ? tr("Measuring the view…") : QString());
  QString text = linesOf(*summary());
  if (inView_.isPart())
    text += tr("\nThat is the view's middle, %1 × %2 cells.")
                .arg(whole(static_cast<double>(summary()->area.width)),
                    whole(static_cast<double>(summary()->area.length)));
  found_->setText(text);
}

void WaterEditor::rebuild() {
  found_ = ways_ = nullptr;
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
    addCourses(column, rivers.courses);
    section(column, tr("In view"));
    found_ = new QLabel;
    found_->setObjectName(QStringLiteral("rivers.found"));
    found_->setWordWrap(true);
    found_->setTextInteractionFlags(Qt::TextSelectableByMouse);
    column->addWidget(found_);
    showFigures();
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

void WaterEditor::addCourses(QVBoxLayout* column, const acre::RiverCourses& courses) {
  using acre::RiverCourses;
  section(column, tr("Ways through obstacles"));
  const auto made = form<RiverCourses>(
      courses, [](Recipe& r) { return &r.rivers->courses; }, QStringLiteral("rivers.courses"),
      tr("the ways"));
  made.numbers(column, kAcross, &RiverCourses::count, &RiverCourses::width);
  if (!courses.any()) {
    column->addWidget(caption(tr("None. From 1 on, rivers lead from side to side of every region, "
                                 "whatever the land says."),
        true));
    return;
  }
  if (!isOneRegion(boundsOf(document_.recipe().frame)))
    made.numbers(column, kAcross, &RiverCourses::region, &RiverCourses::step);
  else
    made.numbers(column, kAcross, &RiverCourses::step);
  if (!courses.borders && courses.field.empty())  // A noise says where.
    made.numbers(column, kAcross, &RiverCourses::share, &RiverCourses::feature);
  else
    made.numbers(column, kAcross, &RiverCourses::share);
  made.numbers(column, kAcross, &RiverCourses::climb, &RiverCourses::carve, &RiverCourses::winding);
  Row turns(column);
  turns.add(made.tick(&RiverCourses::diagonal, tr("Eight ways")))
      .add(made.tick(&RiverCourses::join, tr("They join")));
  if (hasBorders(document_.recipe()))
    turns.add(made.tick(&RiverCourses::borders, tr("Along borders")));
  turns.rest();
  Offered where = {{tr("a noise is high"), {}}};
  for (const acre::FieldRecipe* field : fieldsBeforeWater(document_.recipe()))
    where.emplace_back(tr("%1 is high").arg(QString::fromStdString(field->name)), field->id);
  if (where.size() > 1 && !courses.borders)
    Row(column).words(tr("Obstacles are where")).add(made.choice(&RiverCourses::field, where), 1);
  ways_ = new QLabel;
  ways_->setObjectName(QStringLiteral("rivers.ways"));
  ways_->setWordWrap(true);
  ways_->setTextInteractionFlags(Qt::TextSelectableByMouse);
  column->addWidget(ways_);
  if (courses.given.empty()) return;
  column->addWidget(caption(
      tr("Besides, %1 between places that the file gives.").arg(courses.given.size()), true));
}

void WaterEditor::showPointer(const std::string& pointer) {
  // "/rivers/KEY" or "/rivers/courses/KEY".
  QString key = QString::fromStdString(pointer).section(QLatin1Char('/'), 2, 3);
  if (key == QLatin1String("courses")) key += QStringLiteral(".count");
  key.replace(QLatin1Char('/'), QLatin1Char('.'));
  if (auto* control = findChild<QWidget*>(QStringLiteral("rivers.") + key)) control->setFocus();
}

}  // namespace app

#include "moc_water_editor.cpp"
