// The Biomes editor's rules of the chart and its altitude slices.
#include <QGridLayout>
#include <algorithm>

#include "app/biome/biomes_editor.h"
#include "app/edit/lists.h"
#include "app/edit/swatch.h"
#include "app/look/look.h"

namespace app {

using acre::Area;
using acre::Biomes;
using acre::Recipe;

// ---- rules -------------------------------------------------------------------------------------

void BiomesEditor::buildRules(QVBoxLayout* column) {
  column->addSpacing(6);
  column->addWidget(ruleLine());
  const auto slice = static_cast<size_t>(slices_->chosen());
  const bool sliced = biomes().slices.size() > 1 && slice < biomes().slices.size();
  Row(column)
      .add(heading(sliced ? tr("Rules of %1, first match wins")
                                .arg(QString::fromStdString(biomes().slices[slice].name))
                          : tr("Rules, first match wins")),
          1)
      .add(tableButton(tr("Rules"), "/biomes/areas"));
  auto* grid = new QGridLayout;
  grid->setHorizontalSpacing(4);
  grid->setVerticalSpacing(3);
  grid->setColumnStretch(2, 4);
  grid->setColumnStretch(3, 3);
  grid->setColumnStretch(4, 3);
  int row = 0;
  grid->addWidget(caption(axisTitle(true)), row, 3);
  grid->addWidget(caption(axisTitle(false)), row, 4);
  ++row;
  bool any = false;
  for (size_t i = 0; i < biomes().areas.size(); ++i) {
    const auto& of = biomes().areas[i].slices;
    if (sliced && !of.empty() &&
        std::find(of.begin(), of.end(), biomes().slices[slice].id) == of.end())
      continue;
    any = true;
    addRule(grid, row++, i);
  }
  column->addLayout(grid);
  if (!any) {
    auto* none = new QLabel(biomes().list.empty()
                                ? tr("No rule yet.")
                                : tr("No rule yet: draw a rectangle on the chart, or add one."));
    none->setWordWrap(true);
    column->addWidget(none);
  }
  if (const Area* chosen = withId(biomes().areas, chart_->chosen()))
    buildRuleSlices(column, *chosen);
  auto* add = new QPushButton(tr("Add area"));
  add->setObjectName(QStringLiteral("biomes.addArea"));
  add->setEnabled(!biomes().list.empty());
  add->setToolTip(tr("An area of the chosen biome in the middle of the chart, before all others."));
  connect(add, &QPushButton::clicked, this, [this] {
    const acre::AxisScale x = scale(true), y = scale(false);
    chart_->addAreaAt({(x.low + x.high) / 2, (y.low + y.high) / 2});
  });
  column->addWidget(add, 0, Qt::AlignLeft);
}

QString BiomesEditor::axisTitle(bool alongX) const {
  const acre::AxisScale s = scale(alongX);
  const acre::FieldRecipe* field =
      acre::fieldOf(document_.recipe(), alongX ? biomes().x.field : biomes().y.field);
  const QString name = QString::fromStdString(field ? field->name : std::string());
  return s.unit.empty() ? name : name + QStringLiteral(", ") + QString::fromStdString(s.unit);
}

void BiomesEditor::addRule(QGridLayout* grid, int row, size_t index) {
  const Area& area = biomes().areas[index];
  const std::string id = area.id;
  const auto made = form<Area>(
      area, [id](Recipe& r) { return withId(r.biomes.areas, id); },
      QStringLiteral("area.") + QString::fromStdString(id), tr("a rule"));
  auto* up = smallButton(QStringLiteral("↑"), made.named("up"), tr("Raise its rank"));
  up->setEnabled(index > 0);
  connect(up, &QToolButton::clicked, this, [this, id] {
    applyBiomes(tr("Raise the rank of an area"), [&](Biomes& b) {
      for (size_t k = 1; k < b.areas.size(); ++k)
        if (b.areas[k].id == id) return std::swap(b.areas[k], b.areas[k - 1]);
    });
  });
  grid->addWidget(up, row, 0);
  auto* rank = new QLabel(QString::number(index + 1));
  rank->setProperty("role", "caption");
  if (id == chart_->chosen()) {
    rank->setProperty("role", {});
    QFont bold = rank->font();
    bold.setWeight(QFont::Bold);
    rank->setFont(bold);
  }
  grid->addWidget(rank, row, 1);
  if (area.painting) {
    auto* painting = new QPushButton;
    painting->setObjectName(made.named("painting"));
    connect(painting, &QPushButton::clicked, this, [this, id] { chart_->choose(id); });
    follow([id, painting](const Recipe& r) {
      const Area* a = withId(r.biomes.areas, id);
      if (!a || !a->painting) return;
      const auto painted = std::count_if(
          a->painting->cells.begin(), a->painting->cells.end(), [](uint16_t c) { return c != 0; });
      painting->setText(tr("Painting %1 × %2, %3 cells painted")
                            .arg(a->painting->columns)
                            .arg(a->painting->rows)
                            .arg(painted));
    });
    grid->addWidget(painting, row, 2, 1, 3);
  } else {
    grid->addWidget(chooses(biomeChoice(made, &Area::biome, {}), id), row, 2);
    for (const bool alongX : {true, false})
      grid->addWidget(chooses(spanField(made, alongX), id), row, alongX ? 3 : 4);
  }
  grid->addWidget(deleteButton(made.named("delete"), tr("Delete the rule"),
                      [id](Recipe& r) {
                        std::erase_if(r.biomes.areas, [&](const Area& a) { return a.id == id; });
                      }),
      row, 5);
}

/// A control whose rule is chosen when it gets the focus.
QWidget* BiomesEditor::chooses(QWidget* control, const std::string& area) {
  control->setProperty("area", QString::fromStdString(area));
  control->installEventFilter(this);
  return control;
}

template <class T>
Choice* BiomesEditor::biomeChoice(
    const Form<T>& made, std::string T::*member, const QString& none) {
  Offered offered;
  if (!none.isNull()) offered.emplace_back(none, std::string());
  for (const acre::Biome& b : biomes().list)
    offered.emplace_back(QString::fromStdString(b.name), b.id);
  Choice* choice = made.choice(member, offered);
  follow([choice](const Recipe& r) {
    for (int k = 0; k < choice->count(); ++k)
      if (const auto* b = acre::biomeOf(r, choice->itemData(k).toString().toStdString()))
        choice->setInk(k, b->colour);
  });
  return choice;
}

SpanField* BiomesEditor::spanField(const Form<Area>& made, bool alongX) {
  auto* span = new SpanField(made.named(alongX ? "x" : "y"));
  span->setAccessibleName(tr("%1 of the rule").arg(axisTitle(alongX)));
  connect(
      span, &SpanField::edited, this, [this, place = made.place(), alongX](const acre::Span& next) {
        const bool taken = apply(tr("Range of a rule"), [&](Recipe& r) {
          if (Area* a = place(r)) (alongX ? a->x : a->y) = next;
        });
        if (!taken) refresh();
      });
  connect(span, &SpanField::refused, this, &Editor::refused);
  connect(span, &SpanField::left, this, &Editor::leaveRequested);
  follow([this, span, place = made.place(), alongX](const Recipe& r) {
    if (const Area* a = place(const_cast<Recipe&>(r)))  // Only looked at.
      span->setSpan(alongX ? a->x : a->y, scale(alongX));
  });
  return span;
}

void BiomesEditor::buildRuleSlices(QVBoxLayout* column, const Area& area) {
  if (biomes().slices.size() < 2) return;
  auto* row = new QHBoxLayout;
  row->setSpacing(6);
  row->addWidget(caption(tr("holds in")));
  const std::string id = area.id;
  for (const acre::Slice& slice : biomes().slices) {
    auto* tick = new Tick(QString::fromStdString(slice.name));
    tick->setObjectName(QStringLiteral("area.slice.") + QString::fromStdString(slice.id));
    const bool in = area.slices.empty() || std::find(area.slices.begin(), area.slices.end(),
                                               slice.id) != area.slices.end();
    tick->setChecked(in);
    connect(tick, &Tick::toggled, this, [this, id, slice = slice.id](bool on) {
      applyBiomes(tr("Slices of a rule"), [&](Biomes& b) {
        Area& a = *withId(b.areas, id);
        if (a.slices.empty()) a.slices = idsOf(b.slices);
        if (on)
          a.slices.push_back(slice);
        else
          std::erase(a.slices, slice);
        // In none it would hold in all of them: so the last one stays.
        if (a.slices.empty()) a.slices = {slice};
        if (a.slices.size() >= b.slices.size()) a.slices.clear();
      });
      refresh();
    });
    row->addWidget(tick);
  }
  row->addStretch(1);
  column->addLayout(row);
}

// ---- slices ------------------------------------------------------------------------------------

void BiomesEditor::addSlice() {
  applyBiomes(tr("Add slice"), [&](Biomes& b) {
    const auto named = [&](const char* name) {
      acre::Slice slice;
      slice.id = acre::freshId("slice", idsOf(b.slices));
      slice.name = name;
      return slice;
    };
    if (b.slices.empty()) {
      b.slices.push_back(named("Sea"));
      b.slices.back().below = acre::Threshold{0, true, {}};
      b.slices.push_back(named("Land"));
      return;
    }
    acre::Threshold end{0, true, {}};
    if (b.slices.size() > 1) {
      end = *b.slices[b.slices.size() - 2].below;
      end.value = end.share ? 0 : end.value + 10;
      end.share.reset();
    }
    b.slices.back().below = end;
    b.slices.push_back(named("High"));
  });
}

void BiomesEditor::buildSlices(QVBoxLayout* column) {
  column->addSpacing(6);
  column->addWidget(ruleLine());
  auto* head = new QHBoxLayout;
  head->addWidget(heading(tr("Altitude slices, high to low")), 1);
  head->addWidget(caption(tr("base height below")));
  head->addSpacing(26);
  column->addLayout(head);
  if (biomes().slices.empty()) column->addWidget(caption(tr("One chart for all altitudes.")));
  for (size_t i = biomes().slices.size(); i-- > 0;) addSliceRow(column, biomes().slices[i]);
  auto* add = new QPushButton(biomes().slices.empty() ? tr("Part sea and land") : tr("Add slice"));
  add->setObjectName(QStringLiteral("biomes.addSlice"));
  add->setEnabled(biomes().slices.size() < acre::limits::slices);
  connect(add, &QPushButton::clicked, this, &BiomesEditor::addSlice);
  column->addWidget(add, 0, Qt::AlignLeft);
}

void BiomesEditor::addSliceRow(QVBoxLayout* column, const acre::Slice& slice) {
  using acre::Slice;
  const std::string id = slice.id;
  const auto made = form<Slice>(
      slice, [id](Recipe& r) { return withId(r.biomes.slices, id); },
      QStringLiteral("slice.") + QString::fromStdString(id), tr("a slice"));
  auto* whole = biomeChoice(made, &Slice::biome, tr("by the chart"));
  whole->setToolTip(tr("The chart decides, or the whole slice is of one biome."));
  Row line(column);
  line.add(made.text(&Slice::name), 1).add(whole, 1);
  if (slice.below) {
    line.words(slice.below->share ? tr("share") : slice.below->fromSea ? tr("sea +") : tr("at"));
    line.add(
        made.number(
            "below", tr("Upper end of the slice"), {acre::limits::altitude, 0.5, false, false, {}},
            tr("Base heights below this belong to the slice, those at it and above to the "
               "next."),
            [](const Slice& s) -> std::optional<double> {
              if (!s.below) return {};
              return s.below->share ? s.below->share : s.below->value;
            },
            [](Slice& s, double v) {
              if (s.below) (s.below->share ? *s.below->share : s.below->value) = v;
            }),
        62);
  } else {
    line.words(tr("all above"));
  }
  line.add(deleteButton(made.named("delete"), tr("Delete slice"), [id](Recipe& r) {
    Biomes& b = r.biomes;
    std::erase_if(b.slices, [&](const Slice& s) { return s.id == id; });
    if (!b.slices.empty()) b.slices.back().below.reset();
    // Rules that held there alone go with it.
    std::erase_if(b.areas, [&](Area& a) {
      const bool had = std::erase(a.slices, id) > 0;
      return had && a.slices.empty();
    });
  }));
}

}  // namespace app
