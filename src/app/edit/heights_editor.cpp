#include "app/edit/heights_editor.h"

#include <QGridLayout>
#include <QMenu>
#include <QPushButton>
#include <QSignalBlocker>
#include <QToolButton>
#include <algorithm>
#include <cmath>

#include "app/look/look.h"
#include "base/fp_state.h"
#include "base/seed.h"
#include "field/heights.h"

namespace app {
namespace {

using acre::Layer;
using acre::Recipe;

/// The layer of that id, or nullptr; const when the recipe is.
template <class R>
auto* layerOf(R& recipe, const std::string& id) {
  const auto found = std::find_if(recipe.heights.begin(), recipe.heights.end(),
                                  [&](const Layer& l) { return l.id == id; });
  return found == recipe.heights.end() ? nullptr : &*found;
}
/// Its noise, or nullptr when there is no such layer or it is a constant.
template <class R>
auto* noiseOf(R& recipe, const std::string& id) {
  auto* layer = layerOf(recipe, id);
  return layer ? std::get_if<acre::GradientSource>(&layer->source) : nullptr;
}

std::vector<std::string> idsOf(const std::vector<Layer>& layers) {
  std::vector<std::string> ids;
  ids.reserve(layers.size());
  for (const Layer& layer : layers) ids.push_back(layer.id);
  return ids;
}

}  // namespace

HeightsEditor::HeightsEditor(Document& document, QWidget* parent)
    : Editor(document, parent), courier_(std::make_shared<Courier<HeightsEditor>>(this)) {
  column_ = new QVBoxLayout(this);
  column_->setContentsMargins(16, 12, 16, 12);
  column_->setSpacing(look::kSpace);
  reach_ = caption({});
  reach_->setObjectName(QStringLiteral("heights.reach"));
  column_->addWidget(reach_);
  rebuild();
}

HeightsEditor::~HeightsEditor() {
  courier_->close();
  stop_.request_stop();
}

void HeightsEditor::rebuild() {
  clearBindings();
  panels_.clear();
  if (body_) {
    column_->removeWidget(body_);
    body_->hide();
    body_->deleteLater();  // The change may come from one of its own controls.
  }
  body_ = new QWidget;
  auto* column = new QVBoxLayout(body_);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(look::kSpace);
  const auto& layers = document_.recipe().heights;
  if (layers.empty()) column->addWidget(new QLabel(tr("Flat at 0. Add a layer.")));
  for (size_t i = 0; i < layers.size(); ++i) addPanel(layers[i], i, layers.size());

  auto* row = new QHBoxLayout;
  auto* noise = new QPushButton(tr("Add gradient noise"));
  noise->setObjectName(QStringLiteral("heights.addNoise"));
  connect(noise, &QPushButton::clicked, this, [this] { addLayer(true); });
  auto* constant = new QPushButton(tr("Add constant"));
  constant->setObjectName(QStringLiteral("heights.addConstant"));
  connect(constant, &QPushButton::clicked, this, [this] { addLayer(false); });
  row->addWidget(noise);
  row->addWidget(constant);
  row->addStretch(1);
  column->addLayout(row);
  column->addStretch(1);
  column_->addWidget(body_, 1);
  refresh();
}

void HeightsEditor::addPanel(const Layer& layer, size_t place, size_t count) {
  Panel panel;
  panel.id = layer.id;
  panel.noise = std::holds_alternative<acre::GradientSource>(layer.source);
  const QString key = QStringLiteral("layer.") + QString::fromStdString(layer.id);
  const std::string id = layer.id;
  auto* column = static_cast<QVBoxLayout*>(body_->layout());
  if (place > 0) column->addWidget(ruleLine());

  auto* head = new QHBoxLayout;
  head->setSpacing(6);
  panel.combine = new Choice;
  panel.combine->addItems({tr("+"), tr("×")});
  panel.combine->setObjectName(key + QStringLiteral(".combine"));
  panel.combine->setToolTip(
      tr("How the layer joins the sum of those above it: added, or multiplied."));
  panel.combine->setAccessibleName(tr("How the layer joins the sum"));
  panel.combine->setFixedWidth(44);
  connect(panel.combine, &Choice::activated, this, [this, id](int index) {
    apply(tr("Combine"), [&](Recipe& r) {
      if (Layer* l = layerOf(r, id)) l->combine = static_cast<acre::Combine>(index);
    });
  });
  panel.name = new QLineEdit;
  panel.name->setObjectName(key + QStringLiteral(".name"));
  panel.name->setAccessibleName(tr("Name of the layer"));
  panel.name->setMaxLength(100);
  connect(panel.name, &QLineEdit::editingFinished, this, [this, id, field = panel.name] {
    const Layer* l = layerOf(document_.recipe(), id);
    if (!l || l->name == field->text().toStdString()) return;
    apply(tr("Rename layer"),
          [&](Recipe& r) { layerOf(r, id)->name = field->text().toStdString(); });
  });
  panel.on = new Tick(tr("on"));
  panel.on->setObjectName(key + QStringLiteral(".on"));
  panel.on->setToolTip(tr("Off: the layer takes no part. The others stay as they are."));
  connect(panel.on, &Tick::toggled, this, [this, id](bool on) {
    apply(on ? tr("Switch layer on") : tr("Switch layer off"), [&](Recipe& r) {
      if (Layer* l = layerOf(r, id)) l->on = on;
    });
  });
  auto* more = new QToolButton;
  more->setText(tr("Layer ▾"));
  more->setObjectName(key + QStringLiteral(".menu"));
  more->setPopupMode(QToolButton::InstantPopup);
  auto* menu = new QMenu(more);
  const auto act = [&](const QString& text, const QString& name, bool enabled,
                       std::function<void(std::vector<Layer>&, size_t)> edit) {
    auto* action = menu->addAction(text, this, [this, id, text, edit] {
      apply(text, [&](Recipe& r) {
        const Layer* l = layerOf(r, id);
        if (l) edit(r.heights, static_cast<size_t>(l - r.heights.data()));
      });
    });
    action->setObjectName(key + name);
    action->setEnabled(enabled);
  };
  act(tr("Move up"), QStringLiteral(".up"), place > 0,
      [](std::vector<Layer>& all, size_t i) { std::swap(all[i], all[i - 1]); });
  act(tr("Move down"), QStringLiteral(".down"), place + 1 < count,
      [](std::vector<Layer>& all, size_t i) { std::swap(all[i], all[i + 1]); });
  act(tr("Duplicate"), QStringLiteral(".duplicate"), true, [](std::vector<Layer>& all, size_t i) {
    Layer copy = all[i];
    copy.id = acre::freshId("layer", idsOf(all));
    copy.name += " 2";
    all.insert(all.begin() + static_cast<ptrdiff_t>(i) + 1, copy);
  });
  act(tr("Delete layer"), QStringLiteral(".delete"), true, [](std::vector<Layer>& all, size_t i) {
    all.erase(all.begin() + static_cast<ptrdiff_t>(i));
  });
  more->setMenu(menu);
  head->addWidget(panel.combine);
  head->addWidget(panel.name, 1);
  head->addWidget(panel.on);
  head->addWidget(more);
  column->addLayout(head);

  panel.lane = new Lane;
  column->addWidget(panel.lane);

  auto* grid = new QGridLayout;
  grid->setHorizontalSpacing(8);
  grid->setVerticalSpacing(6);
  grid->setColumnStretch(1, 1);
  grid->setColumnStretch(3, 1);
  if (!panel.noise) {
    grid->addWidget(new QLabel(tr("Value")), 0, 0);
    grid->addWidget(
        bindNumber({acre::limits::altitude, 0.5, false, false, {}}, key + ".value",
                   tr("Value of the layer"),
                   {[id](const Recipe& r) -> std::optional<double> {
                      const Layer* l = layerOf(r, id);
                      const auto* c = l ? std::get_if<acre::ConstantSource>(&l->source) : nullptr;
                      return c ? std::optional(c->value) : std::nullopt;
                    },
                    [id](Recipe& r, double v) {
                      Layer* l = layerOf(r, id);
                      if (auto* c = l ? std::get_if<acre::ConstantSource>(&l->source) : nullptr)
                        c->value = v;
                    }},
                   tr("The same everywhere.")),
        0, 1);
  } else {
    using Source = acre::GradientSource;
    addNumber(grid, 0, 0, panel, tr("Width"), QStringLiteral("width"),
              {acre::limits::width, 1, true, false, tr("cells")}, &Source::width,
              tr("Feature width: cells from one crest to about the next. Larger is broader."));
    addNumber(grid, 0, 2, panel, tr("Amplitude"), QStringLiteral("amplitude"),
              {acre::limits::amplitude, 0.5, false, false, {}}, &Source::amplitude,
              tr("How far the first octave rises above and falls below its offset."));
    panel.fractal = new Choice;
    panel.fractal->addItems({tr("single octave"), tr("fBm")});
    panel.fractal->setObjectName(key + QStringLiteral(".fractal"));
    panel.fractal->setAccessibleName(tr("Fractal"));
    panel.fractal->setToolTip(
        tr("Single: one smooth octave. fBm: finer octaves added, each narrower and weaker."));
    connect(panel.fractal, &Choice::activated, this, [this, id](int index) {
      apply(tr("Fractal"), [&](Recipe& r) {
        if (Source* s = noiseOf(r, id)) s->fractal = static_cast<acre::Fractal>(index);
      });
    });
    grid->addWidget(new QLabel(tr("Fractal")), 1, 0);
    grid->addWidget(panel.fractal, 1, 1);
    addNumber(grid, 1, 2, panel, tr("Offset"), QStringLiteral("offset"),
              {acre::limits::altitude, 0.5, false, false, {}}, &Source::offset,
              tr("Added to the layer everywhere."));
    auto* octavesLabel = new QLabel(tr("Octaves"));
    auto* octaves = bindNumber(
        {acre::limits::octaves, 0.2, false, true, {}}, key + ".octaves", tr("Octaves of the layer"),
        {[id](const Recipe& r) -> std::optional<double> {
           const Source* s = noiseOf(r, id);
           return s ? std::optional<double>(s->octaves) : std::nullopt;
         },
         [id](Recipe& r, double v) {
           if (Source* s = noiseOf(r, id)) s->octaves = static_cast<int>(v);
         }},
        tr("How many octaves are summed. More give finer detail and take longer."));
    grid->addWidget(octavesLabel, 2, 0);
    grid->addWidget(octaves, 2, 1);
    panel.fbmOnly = {octavesLabel, octaves};
    addNumber(
        grid, 2, 2, panel, tr("Gain"), QStringLiteral("gain"),
        {acre::limits::gain, 0.01, false, false, {}}, &Source::gain,
        tr("Amplitude of each octave against the one before. 0.5 is usual; more is rougher."));
    addNumber(grid, 3, 0, panel, tr("Lacunarity"), QStringLiteral("lacunarity"),
              {acre::limits::lacunarity, 0.01, false, false, {}}, &Source::lacunarity,
              tr("How much narrower each octave is than the one before. 2 is usual."));
    panel.sampling = new Choice;
    panel.sampling->addItems({tr("scattered"), tr("placed")});
    panel.sampling->setObjectName(key + QStringLiteral(".sampling"));
    panel.sampling->setAccessibleName(tr("Sampling offset"));
    panel.sampling->setToolTip(
        tr("Scattered: every octave is shifted by the seed, so that none vanishes at the origin.\n"
           "Placed: sampled at the cell plus an offset of your own, in cells."));
    connect(panel.sampling, &Choice::activated, this, [this, id](int index) {
      apply(tr("Sampling offset"), [&](Recipe& r) {
        Source* s = noiseOf(r, id);
        if (!s) return;
        if (index == 0)
          s->sampling.reset();
        else if (!s->sampling)
          s->sampling = acre::SamplingOffset{0.5, 0.5};
      });
    });
    grid->addWidget(new QLabel(tr("Sampling")), 3, 2);
    grid->addWidget(panel.sampling, 3, 3);
    const auto addShift = [&](int at, const QString& axis, double acre::SamplingOffset::*member) {
      auto* label = new QLabel(tr("Shift %1").arg(axis));
      auto* field = bindNumber(
          {acre::limits::sampling, 0.5, false, false, tr("cells")}, key + ".shift." + axis,
          tr("Sampling offset %1").arg(axis),
          {[id, member](const Recipe& r) -> std::optional<double> {
             const Source* s = noiseOf(r, id);
             return s && s->sampling ? std::optional((*s->sampling).*member) : std::nullopt;
           },
           [id, member](Recipe& r, double v) {
             Source* s = noiseOf(r, id);
             if (s && s->sampling) (*s->sampling).*member = v;
           }},
          tr("Added to the cell before the noise is sampled; kept to 1/65536 cell."));
      grid->addWidget(label, 4, at);
      grid->addWidget(field, 4, at + 1);
      panel.placed.push_back(label);
      panel.placed.push_back(field);
    };
    addShift(0, QStringLiteral("x"), &acre::SamplingOffset::x);
    addShift(2, QStringLiteral("z"), &acre::SamplingOffset::z);
  }
  column->addLayout(grid);
  panels_.push_back(std::move(panel));
}

void HeightsEditor::addNumber(QGridLayout* grid, int row, int at, Panel& panel,
                              const QString& label, const QString& key, const NumberSpec& spec,
                              double acre::GradientSource::*member, const QString& toolTip) {
  const std::string id = panel.id;
  auto* text = new QLabel(label);
  auto* field =
      bindNumber(spec, QStringLiteral("layer.%1.%2").arg(QString::fromStdString(id), key), label,
                 {[id, member](const Recipe& r) -> std::optional<double> {
                    const auto* s = noiseOf(r, id);
                    return s ? std::optional(s->*member) : std::nullopt;
                  },
                  [id, member](Recipe& r, double v) {
                    if (auto* s = noiseOf(r, id)) s->*member = v;
                  }},
                 toolTip);
  grid->addWidget(text, row, at);
  grid->addWidget(field, row, at + 1);
  if (key == QStringLiteral("gain") || key == QStringLiteral("lacunarity"))
    panel.fbmOnly.insert(panel.fbmOnly.end(), {text, field});
}

void HeightsEditor::addLayer(bool noise) {
  apply(tr("Add layer"), [noise](Recipe& r) {
    Layer layer;
    layer.id = acre::freshId("layer", idsOf(r.heights));
    layer.name = noise ? "Gradient noise" : "Constant";
    if (noise) {
      acre::GradientSource source;
      source.width = 64;
      source.amplitude = 5;
      layer.source = source;
    } else {
      layer.source = acre::ConstantSource{0};
    }
    r.heights.push_back(layer);
  });
}

void HeightsEditor::refresh() {
  const auto& layers = document_.recipe().heights;
  const bool same = std::equal(
      layers.begin(), layers.end(), panels_.begin(), panels_.end(),
      [](const Layer& l, const Panel& p) {
        return l.id == p.id && std::holds_alternative<acre::GradientSource>(l.source) == p.noise;
      });
  if (!same) return rebuild();
  for (size_t i = 0; i < layers.size(); ++i) {
    const Layer& layer = layers[i];
    Panel& panel = panels_[i];
    const QSignalBlocker quiet(panel.on);
    panel.on->setChecked(layer.on);
    panel.combine->setCurrentIndex(static_cast<int>(layer.combine));
    if (!panel.name->hasFocus()) panel.name->setText(QString::fromStdString(layer.name));
    panel.lane->setFaint(!layer.on);
    if (!panel.noise) continue;
    const auto& noise = std::get<acre::GradientSource>(layer.source);
    panel.fractal->setCurrentIndex(static_cast<int>(noise.fractal));
    panel.sampling->setCurrentIndex(noise.sampling ? 1 : 0);
    for (QWidget* w : panel.fbmOnly) w->setEnabled(noise.fractal == acre::Fractal::Fbm);
    for (QWidget* w : panel.placed) w->setVisible(noise.sampling.has_value());
  }
  refreshNumbers();
  const acre::Range reach = acre::possibleHeights(layers);
  reach_->setText(tr("Heights could reach %1 to %2.")
                      .arg(look::number(std::round(reach.low * 10) / 10),
                           look::number(std::round(reach.high * 10) / 10)));
  requestWaves();
}

void HeightsEditor::showEvent(QShowEvent*) {
  requestWaves();
}

void HeightsEditor::setView(const MapGeometry& geometry) {
  geometry_ = geometry;
  requestWaves();
}

void HeightsEditor::requestWaves() {
  if (!isVisible() || panels_.empty() || geometry_.size.isEmpty()) return;
  const int samples = std::max(2, panels_.front().lane->width());
  // The whole row of the view: about as many cells as the lane has pixels, at most twice as many.
  const double cells = geometry_.size.width() * geometry_.cellsPerPixel;
  const int64_t step = std::max<int64_t>(1, static_cast<int64_t>(cells / samples));
  const int count = std::max(2, static_cast<int>(cells / static_cast<double>(step)));
  const acre::Cell west = geometry_.toWorld({0, geometry_.size.height() / 2}).cell;
  stop_.request_stop();
  stop_ = {};
  document_.engine().executor().submit(
      acre::Priority::Thumbnail,
      [courier = courier_, layers = document_.recipe().heights, seed = document_.recipe().seed,
       west, step, count, request = ++request_, stop = stop_.get_token(),
       kernels = &document_.engine().kernels()] {
        const acre::FpState fp;
        std::vector<std::vector<float>> waves;
        for (Layer layer : layers) {
          layer.on = true;
          layer.combine = acre::Combine::Add;
          const auto field = acre::HeightField::compile({layer}, acre::seedNumber(seed));
          if (!field) return;
          std::vector<float> wave(static_cast<size_t>(count));
          const acre::SampleGrid row{west.x, west.z, step, count, 1};
          if (!(*field)->evaluate(*kernels, row, wave.data(), count, stop)) return;
          waves.push_back(std::move(wave));
        }
        courier->deliver([request, waves = std::move(waves), step](HeightsEditor& self) {
          self.showWaves(request, waves, step);
        });
      });
}

void HeightsEditor::showWaves(uint64_t request, std::vector<std::vector<float>> waves,
                              int64_t step) {
  if (request != request_ || waves.size() != panels_.size()) return;
  for (size_t i = 0; i < waves.size(); ++i) panels_[i].lane->setValues(std::move(waves[i]), step);
}

}  // namespace app
