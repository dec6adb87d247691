#include "app/biome/biomes_editor.h"

#include <QEvent>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QSignalBlocker>
#include <algorithm>
#include <cmath>
#include <utility>

#include "app/edit/arithmetic.h"
#include "app/look/look.h"
#include "climate/biomes.h"
#include "recipe/edits.h"

namespace app {
namespace {

constexpr const char* kToolKeys[5] = {"select", "rectangle", "paint", "fill", "erase"};

}  // namespace

BiomesEditor::BiomesEditor(Document& document, Statistics& statistics, QWidget* parent)
    : Editor(document, parent), statistics_(statistics) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(16, 10, 16, 12);
  column->setSpacing(look::kSpace);
  off_ = new QWidget;
  auto* offColumn = new QVBoxLayout(off_);
  offColumn->setContentsMargins(0, 0, 0, 0);
  auto* why = new QLabel(tr("Biomes are off: the ground is what the general bands make of it."));
  why->setWordWrap(true);
  auto* on = new QPushButton(tr("Switch on"));
  on->setObjectName(QStringLiteral("biomes.on"));
  connect(on, &QPushButton::clicked, this, &BiomesEditor::switchRequested);
  offColumn->addWidget(why);
  offColumn->addWidget(on, 0, Qt::AlignLeft);
  offColumn->addStretch(1);
  column->addWidget(off_, 1);

  on_ = new QWidget;
  column_ = new QVBoxLayout(on_);
  column_->setContentsMargins(0, 0, 0, 0);
  column_->setSpacing(look::kSpace);
  buildHead(column_);
  buildChart(column_);
  buildTools(column_);
  column->addWidget(on_, 1);
  connect(&statistics_, &Statistics::changed, this, &BiomesEditor::refreshFigures);
  refresh();
}

acre::AxisScale BiomesEditor::scale(bool alongX) const {
  return acre::scaleOf(document_.recipe(), alongX ? biomes().x : biomes().y);
}

bool BiomesEditor::applyBiomes(const QString& step, const Edit& edit, const QString& mergeKey) {
  return apply(
      step, [&](acre::Recipe& r) { edit(r.biomes); }, mergeKey);
}

void BiomesEditor::buildHead(QVBoxLayout* column) {
  auto* row = new QHBoxLayout;
  row->setSpacing(6);
  rules_ = new Choice;
  rules_->setObjectName(QStringLiteral("biomes.rules"));
  rules_->setAccessibleName(tr("How the chart is filled"));
  rules_->addItems({tr("Areas"), tr("Ideal points")});
  rules_->setToolTip(
      tr("Areas: rectangles and paint, the first that holds a value takes it.\n"
         "Ideal points: the nearest point takes it, so that nothing is left uncovered."));
  connect(rules_, &Choice::activated, this, [this](int index) {
    chart_->choose({});
    applyBiomes(index == 0 ? tr("Chart of areas") : tr("Chart of ideal points"),
        [&](acre::Biomes& b) { b.rules = static_cast<acre::ChartRules>(index); });
  });
  row->addWidget(rules_);
  for (const bool alongX : {true, false}) {
    auto* axis = new Choice;
    axes_[alongX ? 0 : 1] = axis;
    axis->setObjectName(alongX ? QStringLiteral("biomes.x") : QStringLiteral("biomes.y"));
    axis->setAccessibleName(alongX ? tr("Field across") : tr("Field upwards"));
    axis->setToolTip(alongX ? tr("The field that runs across the chart.")
                            : tr("The field that runs up the chart."));
    axis->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    axis->setMinimumContentsLength(6);
    connect(axis, &Choice::activated, this, [this, alongX, axis] {
      const std::string id = axis->currentData().toString().toStdString();
      acre::ChartAxis next{id, -1, 1};
      // An axis of another field begins and ends where that field does.
      if (!acre::climateAxisOf(document_.recipe(), id))
        if (const auto d = statistics_.distribution(id)) {
          next.low = std::floor(static_cast<double>(d->lowest()));
          next.high = std::max(next.low + 1, std::ceil(static_cast<double>(d->highest())));
        }
      applyBiomes(alongX ? tr("Field across the chart") : tr("Field up the chart"),
          [&](acre::Biomes& b) { (alongX ? b.x : b.y) = next; });
    });
    row->addWidget(caption(alongX ? tr("across") : tr("up")));
    row->addWidget(axis, 1);
  }
  column->addLayout(row);

  auto* line = new QHBoxLayout;
  headline_ = new QLabel;
  headline_->setObjectName(QStringLiteral("biomes.headline"));
  headline_->setFont(look::font(look::Type::Head));
  headline_->setWordWrap(true);
  hole_ = new QPushButton(tr("Nearest hole"));
  hole_->setObjectName(QStringLiteral("biomes.hole"));
  hole_->setToolTip(tr("Goes to the nearest cell that no rule covers (H on the map)."));
  connect(hole_, &QPushButton::clicked, this, &BiomesEditor::nextHoleRequested);
  line->addWidget(headline_, 1);
  line->addWidget(hole_, 0, Qt::AlignTop);
  column->addLayout(line);
  auto* faults = new QWidget;
  faults->setObjectName(QStringLiteral("biomes.faults"));
  faults_ = new QVBoxLayout(faults);
  faults_->setContentsMargins(0, 0, 0, 0);
  faults_->setSpacing(4);
  column->addWidget(faults);
}

void BiomesEditor::buildChart(QVBoxLayout* column) {
  auto* row = new QHBoxLayout;
  row->setSpacing(2);
  slices_ = new SliceCharts;
  connect(slices_, &SliceCharts::sliceChosen, this, &BiomesEditor::setSlice);
  row->addWidget(slices_);
  chart_ = new ChartView;
  row->addWidget(chart_, 1);
  column->addLayout(row);
  connect(chart_, &ChartView::edited, this,
      [this](const QString& step, const acre::Biomes& next, bool during) {
        apply(
            step, [&](acre::Recipe& r) { r.biomes = next; },
            during ? QStringLiteral("chart") : QString());
        if (!during) document_.endGesture();
      });
  connect(chart_, &ChartView::gestureEnded, this, [this] { document_.endGesture(); });
  connect(chart_, &ChartView::chosenChanged, this, [this] {
    const std::string& id = chart_->chosen();
    for (const acre::Area& area : biomes().areas)
      if (area.id == id && !area.painting) biome_ = area.biome;
    if (acre::biomeOf(document_.recipe(), id)) biome_ = id;
    refresh();
  });
  connect(chart_, &ChartView::patchHovered, this, &BiomesEditor::patchHovered);
  connect(chart_, &ChartView::sliceStepped, this, [this](int by) {
    const int to = chart_->slice() + by;
    if (compiled_ && to >= 0 && to < compiled_->slices()) setSlice(to);
  });
  connect(chart_, &ChartView::refused, this, &Editor::refused);
  connect(chart_, &ChartView::left, this, &Editor::leaveRequested);
}

void BiomesEditor::buildTools(QVBoxLayout* column) {
  auto* row = new QHBoxLayout;
  row->setSpacing(4);
  const QString names[5] = {tr("Select"), tr("Rectangle"), tr("Paint"), tr("Fill"), tr("Erase")};
  const QString tips[5] = {
      tr("Choose and drag areas, their edges, and ideal points."),
      tr("Draw an area of the chosen biome; it goes before all others."),
      tr("Paint cells of the chart with the chosen biome."),
      tr("Fill cells that are alike with the chosen biome."),
      tr("Erase painted cells; a click on an area deletes it."),
  };
  for (size_t k = 0; k < 5; ++k) {
    auto* tool = new QToolButton;
    tool->setText(names[k]);
    tool->setObjectName(QStringLiteral("biomes.tool.") + QLatin1String(kToolKeys[k]));
    tool->setToolTip(tips[k]);
    tool->setCheckable(true);
    tool->setAutoExclusive(true);
    tool->setChecked(k == 0);
    connect(tool, &QToolButton::toggled, this, [this, k](bool on) {
      if (on) chart_->setTool(static_cast<ChartView::Tool>(k));
    });
    tools_[k] = tool;
    row->addWidget(tool);
  }
  brush_ = new Choice;
  brush_->setObjectName(QStringLiteral("biomes.brush"));
  brush_->setAccessibleName(tr("Biome to draw with"));
  brush_->setToolTip(tr("The biome of new areas and of paint."));
  brush_->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
  brush_->setMinimumContentsLength(8);
  connect(brush_, &Choice::activated, this,
      [this] { chooseBiome(brush_->currentData().toString().toStdString()); });
  row->addStretch(1);
  column->addLayout(row);
  auto* brushRow = new QHBoxLayout;
  brushRow->setSpacing(6);
  brushRow->addWidget(caption(tr("draws")));
  brushRow->addWidget(brush_, 1);
  brushRow->addWidget(caption(tr("equalise")));
  for (const bool alongX : {true, false}) {
    auto* offer = new QPushButton(alongX ? tr("across…") : tr("up…"));
    offer->setObjectName(
        alongX ? QStringLiteral("biomes.equalise.x") : QStringLiteral("biomes.equalise.y"));
    offer->setToolTip(tr("Shows what evening out this field would do to every biome's share."));
    connect(offer, &QPushButton::clicked, this,
        [this, alongX] { equalise_->offer(alongX ? biomes().x.field : biomes().y.field); });
    brushRow->addWidget(offer);
  }
  column->addLayout(brushRow);
  correlation_ = caption({});
  correlation_->setObjectName(QStringLiteral("biomes.correlation"));
  correlation_->setWordWrap(true);
  column->addWidget(correlation_);
  equalise_ = new EqualisePanel(document_, statistics_);
  column->addWidget(equalise_);
}

// ---- following ---------------------------------------------------------------------------------

/// The chart of the recipe, which may be ahead of the world by some milliseconds.
void BiomesEditor::compileChart() {
  const acre::Recipe& recipe = document_.recipe();
  const acre::World& world = *document_.world();
  std::vector<float> ends;
  for (const acre::Slice& slice : recipe.biomes.slices) {
    if (!slice.below) continue;
    // A share is known to the world alone.
    const size_t at = ends.size();
    const bool known =
        planOf(world).biomes() && at < planOf(world).biomes()->chart().sliceEnds().size();
    ends.push_back(slice.below->share
                       ? (known ? planOf(world).biomes()->chart().sliceEnds()[at] : 0.0f)
                       : acre::altitudeOf(*slice.below, planOf(world).seaLevel()));
  }
  compiled_ = std::make_shared<const acre::Chart>(
      acre::ChartInputs{recipe.biomes, scale(true), scale(false), planOf(world).seaLevel(), ends});
}

void BiomesEditor::fillFields() {
  for (const bool alongX : {true, false}) {
    Choice* axis = axes_[alongX ? 0 : 1];
    const QSignalBlocker quiet(axis);
    axis->clear();
    for (const acre::FieldRecipe* f : acre::fieldsOf(document_.recipe()))
      axis->addItem(QString::fromStdString(f->name), QString::fromStdString(f->id));
    axis->setCurrentIndex(
        axis->findData(QString::fromStdString(alongX ? biomes().x.field : biomes().y.field)));
  }
}

void BiomesEditor::refresh() {
  const acre::Recipe& recipe = document_.recipe();
  const bool on = recipe.biomes.on;
  off_->setVisible(!on);
  on_->setVisible(on);
  if (!on) return;
  // Another world is looked at afresh.
  if (std::exchange(source_, document_.source()) != document_.source()) sliceChosen_ = false;
  if (!acre::biomeOf(recipe, biome_))
    biome_ = biomes().list.empty() ? std::string() : biomes().list.front().id;
  rules_->setCurrentIndex(static_cast<int>(biomes().rules));
  fillFields();
  {
    const QSignalBlocker quiet(brush_);
    fillBiomes(brush_, biome_, {});
  }
  chart_->setBrush(biome_);
  compileChart();
  const bool areas = biomes().rules == acre::ChartRules::Areas;
  for (size_t k = 1; k < 5; ++k) tools_[k]->setEnabled(areas && !biomes().list.empty());
  if (!areas && !tools_[0]->isChecked()) tools_[0]->setChecked(true);
  brush_->setEnabled(!biomes().list.empty());
  chart_->setChart(recipe, compiled_);
  if (shape() != built_) rebuildLists();
  refreshControls();
  refreshFigures();
}

void BiomesEditor::setSlice(int slice) {
  sliceChosen_ = true;
  slices_->choose(slice);
  if (shape() != built_) rebuildLists();
  refreshFigures();
}

void BiomesEditor::refreshFigures() {
  if (!biomes().on || !compiled_) return;
  refreshFaults();
  const auto figures = statistics_.chart();
  const int slices = compiled_->slices();
  const bool fits = figures && static_cast<int>(figures->densities.size()) == slices;
  std::vector<float> altitudes(static_cast<size_t>(slices));
  const auto& ends = compiled_->sliceEnds();
  for (size_t s = 0; s < altitudes.size(); ++s)
    altitudes[s] = fits           ? figures->altitudes[s]
                   : ends.empty() ? 0.0f
                   : s == 0       ? ends[0] - 1
                                  : ends[s - 1];
  const bool byRegion =
      biomes().regions.on && biomes().regions.choice != acre::Regions::Choice::Cells;
  if (borderCells_)
    borderCells_->setText(
        figures && figures->perCell > 0 && !byRegion
            ? tr("In the middle of the world this is about %1 cells of ground.")
                  .arg(look::wholeNumber(std::llround(biomes().border.chart / figures->perCell)))
            : QString());
  slices_->setSlices(
      document_.recipe(), *compiled_, altitudes, fits ? figures->shares : std::vector<double>());
  if (fits && !sliceChosen_) {
    // The widest slice that the chart decides.
    sliceChosen_ = true;
    int widest = -1;
    for (int s = 0; s < slices; ++s)
      if (compiled_->fixedBiome(s) == acre::kNoBiome &&
          (widest < 0 || figures->shares[static_cast<size_t>(s)] >
                             figures->shares[static_cast<size_t>(widest)]))
        widest = s;
    if (widest >= 0 && widest != slices_->chosen()) return setSlice(widest);
  }
  const int slice = std::min(slices_->chosen(), slices - 1);
  chart_->setSlice(slice, altitudes[static_cast<size_t>(slice)]);
  if (fits) chart_->setDensity(figures->sample, figures->densities[static_cast<size_t>(slice)]);
  double chartShare = 0;
  for (int s = 0; s < slices; ++s) chartShare += compiled_->uncovered(s) / slices;
  const bool drawn =
      biomes().regions.on && biomes().regions.choice == acre::Regions::Choice::Weights;
  if (drawn) {
    headline_->setText(tr("Regions draw their biomes by weight; the chart decides nothing."));
    hole_->hide();
  } else if (figures) {
    counts_ = acre::chartCounts(*compiled_, *figures->sample, planOf(*document_.world()).kernels(),
        static_cast<int>(biomes().list.size()));
    const auto all = static_cast<double>(figures->sample->size());
    const double world = static_cast<double>(counts_[0]) / all;
    headline_->setText(
        tr("Uncovered: world %1 · chart %2").arg(look::percent(world), look::percent(chartShare)));
    headline_->setToolTip(
        tr("Of %1 cells spread over the world, and of the chart between the "
           "ends of its axes.")
            .arg(look::wholeNumber(static_cast<qint64>(figures->sample->size()))));
    hole_->setVisible(counts_[0] > 0);
    chart_->setCounts(counts_);
    for (const ShareLabel& share : shares_) {
      const uint64_t n = share.index < counts_.size() ? counts_[share.index] : 0;
      share.label->setText(n == 0 ? tr("never") : look::percent(static_cast<double>(n) / all));
      share.label->setToolTip(tr("%1 of %2 cells spread over the world")
                                  .arg(look::wholeNumber(static_cast<qint64>(n)),
                                      look::wholeNumber(static_cast<qint64>(all))));
    }
    const double r = figures->sample->correlation;
    correlation_->setText(
        tr("Behind: %1 cells spread over the world; lines hold 50, 90 and 99 %. r %2%3")
            .arg(look::wholeNumber(static_cast<qint64>(figures->sample->size())),
                look::number(std::round(r * 100) / 100 + 0.0),
                std::abs(r) > 0.7 ? tr(": the world lies on a diagonal") : QString()));
  } else {
    headline_->setText(tr("Uncovered: chart %1").arg(look::percent(chartShare)));
  }
}

/// What the checks found in the chart and its climate, each with what would mend it.
void BiomesEditor::refreshFaults() {
  QStringList sentences;
  std::vector<const acre::Check*> found;
  for (const acre::Check& check : statistics_.checks()) {
    const bool mine = check.stage == acre::StageId::Biomes || check.id == "correlated";
    if (!mine) continue;
    found.push_back(&check);
    sentences << QString::fromStdString(check.sentence);
  }
  if (sentences == shownFaults_) return;
  shownFaults_ = sentences;
  while (QLayoutItem* item = faults_->takeAt(0)) {
    if (item->widget()) item->widget()->deleteLater();
    delete item;
  }
  for (const acre::Check* check : found) {
    auto* row = new QWidget;
    auto* line = new QHBoxLayout(row);
    line->setContentsMargins(0, 0, 0, 0);
    // How much is uncovered stands in the headline already.
    QString words =
        QString::fromStdString(check->id == "uncovered" ? check->mend : check->sentence);
    if (!words.isEmpty()) words[0] = words[0].toUpper();
    auto* sentence = new QLabel(words + QLatin1Char('.'));
    sentence->setWordWrap(true);
    line->addWidget(sentence, 1);
    if (check->apply) {
      auto* fix = new QPushButton(tr("Fix"));
      fix->setObjectName(QStringLiteral("biomes.fix.") + QString::fromStdString(check->id));
      fix->setToolTip(tr("Fix: %1").arg(QString::fromStdString(check->mend)));
      connect(fix, &QPushButton::clicked, this,
          [this, mend = QString::fromStdString(check->mend), edit = check->apply] {
            apply(mend, edit);
          });
      line->addWidget(fix, 0, Qt::AlignTop);
    } else {
      auto* show = new QPushButton(tr("Show"));
      connect(show, &QPushButton::clicked, this,
          [this, pointer = check->pointer] { showPointer(pointer); });
      line->addWidget(show, 0, Qt::AlignTop);
    }
    faults_->addWidget(row);
  }
}

QString BiomesEditor::figures() const {
  if (!biomes().on) return {};
  return biomes().list.size() == 1 ? tr("1 biome") : tr("%1 biomes").arg(biomes().list.size());
}

void BiomesEditor::setHair(std::optional<QPointF> values, float altitude) {
  if (!values || !compiled_ || !biomes().on) return chart_->setHair({});
  // The hair belongs to the slice that the cell is in.
  const int slice = compiled_->decide(0, 0, altitude).slice;
  chart_->setHair(slice == chart_->slice() ? values : std::nullopt);
}

void BiomesEditor::chooseBiome(const std::string& id) {
  if (id == biome_) return;
  biome_ = id;
  if (biomes().rules == acre::ChartRules::Points) chart_->choose(id);
  refresh();
}

bool BiomesEditor::eventFilter(QObject* watched, QEvent* e) {
  if (e->type() == QEvent::FocusIn || e->type() == QEvent::MouseButtonPress) {
    const QVariant biome = watched->property("biome"), area = watched->property("area");
    // Later: the row under the pointer may be rebuilt by it.
    if (biome.isValid())
      QMetaObject::invokeMethod(
          this, [this, id = biome.toString().toStdString()] { chooseBiome(id); },
          Qt::QueuedConnection);
    if (area.isValid())
      QMetaObject::invokeMethod(
          this, [this, id = area.toString().toStdString()] { chart_->choose(id); },
          Qt::QueuedConnection);
  }
  return Editor::eventFilter(watched, e);
}

void BiomesEditor::showPointer(const std::string& pointer) {
  const auto indexIn = [&](const std::string& prefix) {
    if (!pointer.starts_with(prefix)) return -1;
    return std::atoi(pointer.c_str() + prefix.size());
  };
  const auto focusOn = [this](const QString& name) {
    if (auto* widget = findChild<QWidget*>(name)) widget->setFocus(Qt::OtherFocusReason);
  };
  if (const int area = indexIn("/biomes/areas/"); area >= 0) {
    const auto at = static_cast<size_t>(area);
    if (at >= biomes().areas.size()) return;
    const acre::Area& chosen = biomes().areas[at];
    for (size_t s = 0; s < biomes().slices.size(); ++s)
      if (!chosen.slices.empty() && chosen.slices.front() == biomes().slices[s].id)
        setSlice(static_cast<int>(s));
    chart_->choose(chosen.id);
    return chart_->setFocus(Qt::OtherFocusReason);
  }
  if (const int biome = indexIn("/biomes/list/"); biome >= 0) {
    const auto at = static_cast<size_t>(biome);
    if (at >= biomes().list.size()) return;
    chooseBiome(biomes().list[at].id);
    return focusOn(
        QStringLiteral("biome.") + QString::fromStdString(biome_) + QStringLiteral(".name"));
  }
  if (pointer.starts_with("/biomes/regions/warp")) return focusOn(QStringLiteral("regions.warp"));
  if (pointer.starts_with("/biomes/regions")) return focusOn(QStringLiteral("regions.size"));
  if (pointer.starts_with("/biomes/border/ground")) return focusOn(QStringLiteral("border.ground"));
  if (pointer.starts_with("/biomes/border")) return focusOn(QStringLiteral("border.chart"));
  chart_->setFocus(Qt::OtherFocusReason);
}

// ---- spans as text -----------------------------------------------------------------------------

SpanField::SpanField(const QString& name, QWidget* parent) : QLineEdit(parent) {
  setObjectName(name);
  setToolTip(
      tr("From the first number on, to below the second: 2 … 14. An empty side is endless."));
  connect(this, &QLineEdit::editingFinished, this, &SpanField::commit);
}

void SpanField::setSpan(const acre::Span& span, const acre::AxisScale& scale) {
  span_ = span;
  scale_ = scale;
  if (hasFocus() && isModified()) return;
  const auto end = [&](const std::optional<double>& v) {
    return v ? look::number(std::round(scale.told(*v) * 100) / 100) : QString();
  };
  setText(!span.low && !span.high
              ? tr("all")
              : (end(span.low) + QStringLiteral(" … ") + end(span.high)).trimmed());
  setModified(false);
  setCursorPosition(0);
}

void SpanField::keyPressEvent(QKeyEvent* e) {
  if (e->key() == Qt::Key_Escape) {
    setModified(false);
    setSpan(span_, scale_);
    return emit left();
  }
  QLineEdit::keyPressEvent(e);
}

void SpanField::commit() {
  if (!isModified()) return;
  setModified(false);
  QString text = this->text().trimmed();
  const QString typed = text;
  acre::Span span;
  bool fine = true;
  if (text.compare(tr("all"), Qt::CaseInsensitive) != 0 && !text.isEmpty()) {
    text.replace(QStringLiteral("..."), QStringLiteral("…"));
    text.replace(QStringLiteral(" to "), QStringLiteral("…"));
    const QStringList ends = text.split(QStringLiteral("…"));
    const auto end = [&](const QString& part, std::optional<double>& out) {
      if (part.trimmed().isEmpty()) return;
      const auto value = evaluate(part);
      fine = fine && value.has_value();
      if (value) out = scale_.untold(*value);
    };
    fine = ends.size() == 2;
    if (fine) {
      end(ends[0], span.low);
      end(ends[1], span.high);
    }
  }
  if (!fine) {
    emit refused(
        tr("“%1” is no range; accepted: two numbers such as 2 … 14, either side empty for "
           "endless, or all")
            .arg(typed.left(40)));
    return setSpan(span_, scale_);
  }
  emit edited(span);
}

}  // namespace app

#include "moc_biomes_editor.cpp"
