// The Biomes editor's rules of the chart and its altitude slices.
#include <QGridLayout>
#include <QSignalBlocker>
#include <algorithm>

#include "app/biome/biomes_editor.h"
#include "app/biome/controls.h"
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
  column->addWidget(heading(sliced ? tr("Rules of %1, first match wins")
                                         .arg(QString::fromStdString(biomes().slices[slice].name))
                                   : tr("Rules, first match wins")));
  auto* grid = new QGridLayout;
  grid->setHorizontalSpacing(4);
  grid->setVerticalSpacing(3);
  grid->setColumnStretch(2, 4);
  grid->setColumnStretch(3, 3);
  grid->setColumnStretch(4, 3);
  int row = 0;
  const auto title = [&](bool alongX) {
    const acre::AxisScale s = scale(alongX);
    const acre::FieldRecipe* field =
        acre::fieldOf(document_.recipe(), alongX ? biomes().x.field : biomes().y.field);
    const QString name = QString::fromStdString(field ? field->name : std::string());
    return s.unit.empty() ? name : name + QStringLiteral(", ") + QString::fromStdString(s.unit);
  };
  grid->addWidget(caption(title(true)), row, 3);
  grid->addWidget(caption(title(false)), row, 4);
  ++row;
  bool any = false;
  for (size_t i = 0; i < biomes().areas.size(); ++i) {
    const Area& area = biomes().areas[i];
    const bool here = !sliced || area.slices.empty() ||
                      std::find(area.slices.begin(), area.slices.end(),
                          biomes().slices[slice].id) != area.slices.end();
    if (!here) continue;
    any = true;
    const std::string id = area.id;
    const QString key = QStringLiteral("area.") + QString::fromStdString(id);
    auto* up = smallButton(QStringLiteral("↑"), key + QStringLiteral(".up"), tr("Raise its rank"));
    up->setEnabled(i > 0);
    connect(up, &QToolButton::clicked, this, [this, id] {
      applyBiomes(tr("Raise the rank of an area"), [&](Biomes& b) {
        for (size_t k = 1; k < b.areas.size(); ++k)
          if (b.areas[k].id == id) return std::swap(b.areas[k], b.areas[k - 1]);
      });
    });
    grid->addWidget(up, row, 0);
    auto* rank = new QLabel(QString::number(i + 1));
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
      painting->setObjectName(key + QStringLiteral(".painting"));
      connect(painting, &QPushButton::clicked, this, [this, id] { chart_->choose(id); });
      followers_.push_back([this, id, painting] {
        const Area* a = withId(biomes().areas, id);
        if (!a || !a->painting) return;
        const auto painted = std::count_if(a->painting->cells.begin(), a->painting->cells.end(),
            [](uint16_t c) { return c != 0; });
        painting->setText(tr("Painting %1 × %2, %3 cells painted")
                              .arg(a->painting->columns)
                              .arg(a->painting->rows)
                              .arg(painted));
      });
      grid->addWidget(painting, row, 2, 1, 3);
    } else {
      auto* biome = new Choice;
      biome->setObjectName(key + QStringLiteral(".biome"));
      biome->setAccessibleName(tr("Biome of the rule"));
      biome->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
      biome->setMinimumContentsLength(6);
      biome->setProperty("area", QString::fromStdString(id));
      biome->installEventFilter(this);
      connect(biome, &Choice::activated, this, [this, id, biome] {
        const std::string chosen = biome->currentData().toString().toStdString();
        applyBiomes(tr("Biome of a rule"), [&](Biomes& b) { withId(b.areas, id)->biome = chosen; });
      });
      grid->addWidget(biome, row, 2);
      SpanField* spans[2];
      for (const bool alongX : {true, false}) {
        auto* span = new SpanField(key + (alongX ? QStringLiteral(".x") : QStringLiteral(".y")));
        span->setAccessibleName(tr("%1 of the rule").arg(title(alongX)));
        span->setProperty("area", QString::fromStdString(id));
        span->installEventFilter(this);
        connect(span, &SpanField::edited, this, [this, id, alongX](const acre::Span& next) {
          const bool taken = applyBiomes(tr("Range of a rule"), [&](Biomes& b) {
            Area& a = *withId(b.areas, id);
            (alongX ? a.x : a.y) = next;
          });
          if (!taken) refresh();
        });
        connect(span, &SpanField::refused, this, &Editor::refused);
        connect(span, &SpanField::left, this, &Editor::leaveRequested);
        grid->addWidget(span, row, alongX ? 3 : 4);
        spans[alongX ? 0 : 1] = span;
      }
      followers_.push_back([this, id, biome, x = spans[0], y = spans[1]] {
        const Area* a = withId(biomes().areas, id);
        if (!a) return;
        const QSignalBlocker quiet(biome);
        fillBiomes(biome, a->biome, {});
        x->setSpan(a->x, scale(true));
        y->setSpan(a->y, scale(false));
      });
    }
    auto* remove =
        smallButton(QStringLiteral("×"), key + QStringLiteral(".delete"), tr("Delete the rule"));
    connect(remove, &QToolButton::clicked, this, [this, id] {
      applyBiomes(tr("Delete area"),
          [&](Biomes& b) { std::erase_if(b.areas, [&](const Area& a) { return a.id == id; }); });
    });
    grid->addWidget(remove, row, 5);
    ++row;
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
  for (size_t i = biomes().slices.size(); i-- > 0;) {
    const acre::Slice& slice = biomes().slices[i];
    const std::string id = slice.id;
    const QString key = QStringLiteral("slice.") + QString::fromStdString(id);
    auto* line = new QHBoxLayout;
    line->setSpacing(5);
    auto* name = new QLineEdit;
    name->setObjectName(key + QStringLiteral(".name"));
    name->setAccessibleName(tr("Name of the slice"));
    name->setMaxLength(60);
    connect(name, &QLineEdit::editingFinished, this, [this, id, name] {
      const std::string text = name->text().toStdString();
      const acre::Slice* s = withId(biomes().slices, id);
      if (s && s->name != text)
        applyBiomes(tr("Rename slice"), [&](Biomes& b) { withId(b.slices, id)->name = text; });
    });
    line->addWidget(name, 1);
    auto* whole = new Choice;
    whole->setObjectName(key + QStringLiteral(".biome"));
    whole->setAccessibleName(tr("Biome of the whole slice"));
    whole->setToolTip(tr("The chart decides, or the whole slice is of one biome."));
    whole->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    whole->setMinimumContentsLength(7);
    connect(whole, &Choice::activated, this, [this, id, whole] {
      const std::string biome = whole->currentData().toString().toStdString();
      applyBiomes(tr("Biome of a slice"), [&](Biomes& b) { withId(b.slices, id)->biome = biome; });
    });
    line->addWidget(whole, 1);
    followers_.push_back([this, id, name, whole] {
      const acre::Slice* s = withId(biomes().slices, id);
      if (!s) return;
      if (!name->hasFocus()) name->setText(QString::fromStdString(s->name));
      const QSignalBlocker quiet(whole);
      fillBiomes(whole, s->biome, tr("by the chart"));
    });
    if (slice.below) {
      line->addWidget(caption(slice.below->share     ? tr("share")
                              : slice.below->fromSea ? tr("sea +")
                                                     : tr("at")));
      auto* below = bindNumber({acre::limits::altitude, 0.5, false, false, {}},
          key + QStringLiteral(".below"), tr("Upper end of the slice"),
          {[id](const Recipe& r) -> std::optional<double> {
             const acre::Slice* s = withId(r.biomes.slices, id);
             if (!s || !s->below) return {};
             return s->below->share ? s->below->share : s->below->value;
           },
              [id](Recipe& r, double v) {
                acre::Slice* s = withId(r.biomes.slices, id);
                if (!s || !s->below) return;
                if (s->below->share)
                  s->below->share = v;
                else
                  s->below->value = v;
              }},
          tr("Base heights below this belong to the slice, those at it and above to the next."));
      below->setFixedWidth(62);
      line->addWidget(below);
    } else {
      line->addWidget(caption(tr("all above")));
    }
    auto* remove =
        smallButton(QStringLiteral("×"), key + QStringLiteral(".delete"), tr("Delete slice"));
    connect(remove, &QToolButton::clicked, this, [this, id] {
      applyBiomes(tr("Delete slice"), [&](Biomes& b) {
        std::erase_if(b.slices, [&](const acre::Slice& s) { return s.id == id; });
        if (!b.slices.empty()) b.slices.back().below.reset();
        // Rules that held there alone go with it.
        std::erase_if(b.areas, [&](Area& a) {
          const bool had = std::erase(a.slices, id) > 0;
          return had && a.slices.empty();
        });
      });
    });
    line->addWidget(remove);
    column->addLayout(line);
  }
  auto* add = new QPushButton(biomes().slices.empty() ? tr("Part sea and land") : tr("Add slice"));
  add->setObjectName(QStringLiteral("biomes.addSlice"));
  add->setEnabled(biomes().slices.size() < acre::limits::slices);
  connect(add, &QPushButton::clicked, this, &BiomesEditor::addSlice);
  column->addWidget(add, 0, Qt::AlignLeft);
}

}  // namespace app
