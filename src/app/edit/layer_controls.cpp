// The controls of the layer that is chosen in the editor of Heights.
#include <QMenu>
#include <QToolButton>
#include <algorithm>
#include <cmath>

#include "app/edit/heights_editor.h"
#include "app/edit/lists.h"
#include "app/edit/skyline_panel.h"
#include "app/look/look.h"

namespace app {
namespace {

using acre::FieldRecipe;
using acre::Layer;
using acre::NoiseSource;
using acre::Recipe;

const QStringList& basisNames() {
  static const QStringList names = {QObject::tr("gradient"), QObject::tr("value"),
      QObject::tr("simplex"), QObject::tr("cellular"), QObject::tr("white"),
      QObject::tr("gradient 2002")};
  return names;
}

/// The noise of a layer, or of its warp.
NoiseSource* noiseOf(Layer& layer, bool warp) {
  if (warp) return layer.warp ? &layer.warp->noise : nullptr;
  return std::get_if<NoiseSource>(&layer.source);
}

/// The place of a number inside one kind of source.
template <class S>
std::function<double*(Layer&)> in(double S::*member) {
  return [member](Layer& layer) -> double* {
    S* source = std::get_if<S>(&layer.source);
    return source ? &(source->*member) : nullptr;
  };
}

}  // namespace

std::vector<const FieldRecipe*> HeightsEditor::readableFields() const {
  const Recipe& recipe = document_.recipe();
  auto fields = acre::fieldsOf(recipe);
  std::erase_if(fields, [&](const FieldRecipe* f) {
    const bool tooLate = field_ == acre::kHeightsId && acre::climateAxisOf(recipe, f->id);
    return f->id == field_ || tooLate;
  });
  return fields;
}

auto HeightsEditor::placeOfChosen() const -> Editor::Place<Layer> {
  return [field = field_, id = waves_->chosen()](Recipe& r) -> Layer* {
    FieldRecipe* f = acre::fieldOf(r, field);
    return f ? withId(f->layers, id) : nullptr;
  };
}

Editor::Access HeightsEditor::layerAccess(const Place& place) const {
  const Editor::Place<Layer> find = placeOfChosen();
  return {[find, place](const Recipe& r) -> std::optional<double> {
            Layer* l = find(const_cast<Recipe&>(r));  // Only looked at.
            const double* at = l ? place(*l) : nullptr;
            return at ? std::optional(*at) : std::nullopt;
          },
      [find, place](Recipe& r, double v) {
        Layer* l = find(r);
        if (double* at = l ? place(*l) : nullptr) *at = v;
      }};
}

void HeightsEditor::editLayer(
    const QString& step, const std::function<void(Layer&)>& edit, const QString& mergeKey) {
  const std::string id = waves_->chosen();
  apply(
      step,
      [&](Recipe& r) {
        if (FieldRecipe* f = acre::fieldOf(r, field_))
          for (Layer& l : f->layers)
            if (l.id == id) edit(l);
      },
      mergeKey);
}

/// Everything that decides which controls there are.
QString HeightsEditor::signature() const {
  const Layer* l = layer();
  if (!l) return QStringLiteral("none of ") + QString::fromStdString(field_);
  QStringList parts = {QString::fromStdString(field_), QString::fromStdString(l->id),
      QString::number(l->source.index())};
  if (const auto* n = std::get_if<NoiseSource>(&l->source))
    parts << QString::number(static_cast<int>(n->basis))
          << QString::number(static_cast<int>(n->fractal))
          << QString::number(static_cast<int>(n->result));
  if (const auto* p = std::get_if<acre::PictureSource>(&l->source))
    parts << QString::number(static_cast<int>(p->outside));
  parts << QString::number(static_cast<int>(l->combine)) << (l->sampling ? "s" : "")
        << (l->sampling && l->sampling->scatter ? "c" : "") << (l->warp ? "w" : "")
        << (l->curve.empty() ? "" : "k") << (l->clamp ? "l" : "") << (l->mask ? "m" : "")
        << (l->mask && l->mask->low ? "a" : "") << (l->mask && l->mask->high ? "b" : "")
        << (l->equalise ? "e" : "");
  for (const FieldRecipe* f : acre::fieldsOf(document_.recipe()))
    parts << QString::fromStdString(f->id + "=" + f->name);
  return parts.join(QLatin1Char('|'));
}

NumberField* HeightsEditor::addNumber(QGridLayout* grid, int row, int column, const QString& label,
    const QString& key, Place place, std::optional<std::pair<double, double>> ends) {
  Layer now = *layer();
  Number number = numberBy(acre::aboutAt(now, place(now)), label);
  number.spec.bare = false;
  auto* text = new QLabel(label);
  auto* field = bindNumber(
      number.spec, QStringLiteral("layer.") + key, label, layerAccess(place), number.tip);
  if (ends) {
    previews_[field] = {ends->first, ends->second, std::move(place)};
    field->installEventFilter(this);
  }
  grid->addWidget(text, row, column);
  grid->addWidget(field, row, column + 1);
  return field;
}

Choice* HeightsEditor::addChoice(QGridLayout* grid, int row, int column, const QString& label,
    const QString& key, const QStringList& items, int current, std::function<void(Layer&, int)> set,
    const QString& toolTip) {
  auto* choice = new Choice;
  choice->setObjectName(QStringLiteral("layer.") + key);
  choice->setAccessibleName(label);
  choice->setToolTip(toolTip);
  choice->addItems(items);
  choice->setCurrentIndex(current);
  connect(choice, &Choice::activated, this,
      [this, label, set](int index) { editLayer(label, [&](Layer& l) { set(l, index); }); });
  grid->addWidget(new QLabel(label), row, column);
  grid->addWidget(choice, row, column + 1);
  return choice;
}

Tick* HeightsEditor::addTick(QHBoxLayout* row, const QString& label, const QString& key, bool on,
    std::function<void(Layer&, bool)> set, const QString& toolTip) {
  auto* tick = new Tick(label);
  tick->setObjectName(QStringLiteral("layer.") + key);
  tick->setChecked(on);
  tick->setToolTip(toolTip);
  connect(tick, &Tick::toggled, this,
      [this, label, set](bool checked) { editLayer(label, [&](Layer& l) { set(l, checked); }); });
  row->addWidget(tick);
  return tick;
}

void HeightsEditor::rebuildNumbers() {
  shownSignature_ = signature();
  clearBindings();
  previews_.clear();
  curve_ = nullptr;
  layerFigures_ = nullptr;
  layerPicture_ = nullptr;
  layerBins_ = nullptr;
  if (numbers_) {
    numbersColumn_->removeWidget(numbers_);
    numbers_->hide();
    numbers_->deleteLater();  // The change may come from one of its own controls.
  }
  numbers_ = new QWidget;
  auto* column = new QVBoxLayout(numbers_);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(6);
  numbersColumn_->addWidget(numbers_);
  if (const Layer* l = layer()) {
    buildHead(column, *l);
    auto* grid = new QGridLayout;
    grid->setHorizontalSpacing(8);
    grid->setVerticalSpacing(6);
    grid->setColumnStretch(1, 1);
    grid->setColumnStretch(3, 1);
    int row = 0;
    buildSource(grid, row, *l);
    column->addLayout(grid);
    buildParts(column, *l);
  }
  refreshNumbers();
  refreshFigures();
}

void HeightsEditor::buildHead(QVBoxLayout* column, const Layer& l) {
  auto* row = new QHBoxLayout;
  row->setSpacing(6);
  if (!acre::reshapes(l.source)) {
    auto* combine = new Choice;
    combine->setObjectName(QStringLiteral("layer.combine"));
    combine->setAccessibleName(tr("How the layer joins the sum"));
    combine->setToolTip(tr("How the layer joins the sum of those above it."));
    combine->addItems({tr("+ add"), tr("× multiply"), tr("− subtract"), tr("minimum"),
        tr("maximum"), tr("smooth minimum"), tr("smooth maximum"), tr("mix"), tr("= replace")});
    combine->setCurrentIndex(static_cast<int>(l.combine));
    combine->setFixedWidth(112);
    connect(combine, &Choice::activated, this, [this](int index) {
      editLayer(tr("Combine"), [&](Layer& layer) {
        const bool was = layer.combine == acre::Combine::Mix;
        layer.combine = static_cast<acre::Combine>(index);
        if ((layer.combine == acre::Combine::Mix) != was)
          layer.amount = layer.combine == acre::Combine::Mix ? 0.5 : 4;
      });
    });
    row->addWidget(combine);
  }
  auto* name = new QLineEdit(QString::fromStdString(l.name));
  name->setObjectName(QStringLiteral("layer.name"));
  name->setAccessibleName(tr("Name of the layer"));
  name->setMaxLength(100);
  connect(name, &QLineEdit::editingFinished, this, [this, name] {
    const Layer* now = layer();
    if (now && now->name != name->text().toStdString())
      editLayer(tr("Rename layer"), [&](Layer& x) { x.name = name->text().toStdString(); });
  });
  row->addWidget(name, 1);
  auto* more = new QToolButton;
  more->setText(tr("Layer ▾"));
  more->setObjectName(QStringLiteral("layer.menu"));
  more->setPopupMode(QToolButton::InstantPopup);
  more->setFixedHeight(look::kControl);
  auto* menu = new QMenu(more);
  const auto act = [&](const QString& text, const QString& id, std::function<void()> run) {
    menu->addAction(text, this, std::move(run))->setObjectName(QStringLiteral("layer.") + id);
  };
  act(tr("Move up\tAlt+Up"), QStringLiteral("up"), [this] { reorder(-1); });
  act(tr("Move down\tAlt+Down"), QStringLiteral("down"), [this] { reorder(1); });
  act(tr("Duplicate\tCtrl+D"), QStringLiteral("duplicate"), [this] { duplicateLayer(); });
  act(tr("Delete\tDel"), QStringLiteral("delete"), [this] { deleteLayer(waves_->chosen()); });
  more->setMenu(menu);
  row->addWidget(more);
  column->addLayout(row);

  auto* figures = new QHBoxLayout;
  layerPicture_ = new QLabel;
  layerPicture_->setFixedSize(kSmallWidth, kSmallHeight);
  layerPicture_->setAccessibleName(tr("The layer alone, where the map is"));
  layerPicture_->setToolTip(tr("The layer alone, where the map is: dark is low, light is high."));
  layerFigures_ = caption({});
  layerFigures_->setObjectName(QStringLiteral("layer.figures"));
  layerFigures_->setWordWrap(true);
  figures->addWidget(layerPicture_);
  figures->addWidget(layerFigures_, 1);
  layerBins_ = new QLabel;
  layerBins_->setObjectName(QStringLiteral("layer.bins"));
  layerBins_->setFixedSize(kBinsWidth, kSmallHeight);
  layerBins_->setAccessibleName(tr("How often the layer brings each value"));
  layerBins_->setToolTip(
      tr("How often the layer brings each value, from its lowest to its "
         "highest, over the sampled world."));
  figures->addWidget(layerBins_);
  column->addLayout(figures);
}

void HeightsEditor::buildNoise(QGridLayout* grid, int& row, const QString& prefix, bool warp) {
  Layer copy = *layer();
  const NoiseSource& now = *noiseOf(copy, warp);
  const auto at = [warp](double NoiseSource::*member) -> Place {
    return [warp, member](Layer& l) -> double* {
      NoiseSource* n = noiseOf(l, warp);
      return n ? &(n->*member) : nullptr;
    };
  };
  const auto set = [warp](auto edit) {
    return [warp, edit](Layer& l, int index) {
      if (NoiseSource* n = noiseOf(l, warp)) edit(*n, index);
    };
  };
  const auto key = [&](const char* name) { return prefix + QLatin1String(name); };
  addChoice(grid, row, 0, warp ? tr("Warp by") : tr("Noise"), key("basis"), basisNames(),
      static_cast<int>(now.basis),
      set([](NoiseSource& n, int i) { n.basis = static_cast<acre::Basis>(i); }),
      tr("gradient: smooth hills. value: blockier. simplex: smooth without lattice directions.\n"
         "cellular: distances to scattered points. white: every cell by itself.\n"
         "gradient 2002: the published table; it ignores the seed and repeats every 256 "
         "features."));
  addChoice(grid, row, 2, tr("Fractal"), key("fractal"),
      {tr("single octave"), tr("fBm"), tr("ridged"), tr("billowed")}, static_cast<int>(now.fractal),
      set([](NoiseSource& n, int i) { n.fractal = static_cast<acre::Fractal>(i); }),
      tr("Single: one smooth octave. fBm: finer octaves added, each narrower and weaker.\n"
         "Ridged: sharp crests (1 − 2|n|). Billowed: sharp hollows (2|n| − 1)."));
  ++row;
  addNumber(grid, row, 0, tr("Width"), key("width"), at(&NoiseSource::width),
      std::pair(now.width / 2, now.width * 2));
  if (now.fractal != acre::Fractal::Single) {
    const Editor::Place<NoiseSource> place = [find = placeOfChosen(), warp](Recipe& r) {
      Layer* l = find(r);
      return l ? noiseOf(*l, warp) : nullptr;
    };
    const Number number = declared<NoiseSource>(now, place, &NoiseSource::octaves);
    auto* octaves = bindNumber(number.spec, QStringLiteral("layer.") + key("octaves"),
        tr("Octaves"), number.access, number.tip);
    grid->addWidget(new QLabel(tr("Octaves")), row, 2);
    grid->addWidget(octaves, row, 3);
    ++row;
    addNumber(grid, row, 0, tr("Lacunarity"), key("lacunarity"), at(&NoiseSource::lacunarity),
        std::pair(1.5, 3.0));
    addNumber(grid, row, 2, tr("Gain"), key("gain"), at(&NoiseSource::gain), std::pair(0.3, 0.7));
  }
  ++row;
  if (now.basis != acre::Basis::Cellular || warp) return;
  addChoice(grid, row, 0, tr("Result"), key("result"),
      {tr("distance to 1st"), tr("distance to 2nd"), tr("difference"), tr("value of site")},
      static_cast<int>(now.result),
      set([](NoiseSource& n, int i) { n.result = static_cast<acre::CellularResult>(i); }),
      tr("What is taken from the scattered points: distances in feature widths, or a random\n"
         "value of the nearest."));
  addChoice(grid, row, 2, tr("Metric"), key("metric"),
      {tr("Euclidean"), tr("Manhattan"), tr("Chebyshev")}, static_cast<int>(now.metric),
      set([](NoiseSource& n, int i) { n.metric = static_cast<acre::Metric>(i); }),
      tr("How distance is measured: round, diamonds, squares."));
  ++row;
  addNumber(
      grid, row, 0, tr("Jitter"), key("jitter"), at(&NoiseSource::jitter), std::pair(0.0, 1.0));
  ++row;
}

void HeightsEditor::buildSource(QGridLayout* grid, int& row, const Layer& l) {
  const auto pair = [&](const QString& a, const QString& keyA, Place placeA, const QString& b,
                        const QString& keyB, Place placeB) {
    addNumber(grid, row, 0, a, keyA, std::move(placeA));
    addNumber(grid, row, 2, b, keyB, std::move(placeB));
    ++row;
  };
  if (std::holds_alternative<NoiseSource>(l.source)) {
    buildNoise(grid, row, {}, false);
  } else if (std::holds_alternative<acre::ConstantSource>(l.source)) {
    addNumber(
        grid, row++, 0, tr("Value"), QStringLiteral("value"), in(&acre::ConstantSource::value));
  } else if (std::holds_alternative<acre::RampSource>(l.source)) {
    addChoice(
        grid, row, 0, tr("Along"), QStringLiteral("axis"), {tr("x, eastward"), tr("z, southward")},
        static_cast<int>(std::get<acre::RampSource>(l.source).axis),
        [](Layer& x, int i) {
          if (auto* s = std::get_if<acre::RampSource>(&x.source))
            s->axis = static_cast<acre::Axis>(i);
        },
        tr("The axis along which the ramp rises."));
    ++row;
    pair(tr("0 at"), QStringLiteral("from"), in(&acre::RampSource::from), tr("1 at"),
        QStringLiteral("to"), in(&acre::RampSource::to));
  } else if (std::holds_alternative<acre::DistanceSource>(l.source)) {
    pair(tr("x"), QStringLiteral("x"), in(&acre::DistanceSource::x), tr("z"), QStringLiteral("z"),
        in(&acre::DistanceSource::z));
    addNumber(
        grid, row++, 0, tr("Reach"), QStringLiteral("reach"), in(&acre::DistanceSource::reach));
  } else if (const auto* island = std::get_if<acre::IslandSource>(&l.source)) {
    addChoice(
        grid, row, 0, tr("Shape"), QStringLiteral("shape"), {tr("round"), tr("square")},
        island->square ? 1 : 0,
        [](Layer& x, int i) {
          if (auto* s = std::get_if<acre::IslandSource>(&x.source)) s->square = i == 1;
        },
        tr("The outline before it wobbles."));
    ++row;
    pair(tr("x"), QStringLiteral("x"), in(&acre::IslandSource::x), tr("z"), QStringLiteral("z"),
        in(&acre::IslandSource::z));
    pair(tr("Radius"), QStringLiteral("radius"), in(&acre::IslandSource::radius), tr("Edge"),
        QStringLiteral("edge"), in(&acre::IslandSource::edge));
    pair(tr("Wobble"), QStringLiteral("wobble"), in(&acre::IslandSource::wobble), tr("over"),
        QStringLiteral("wobbleWidth"), in(&acre::IslandSource::wobbleWidth));
  } else if (const auto* picture = std::get_if<acre::PictureSource>(&l.source)) {
    grid->addWidget(new QLabel(QString::fromStdString(picture->file)), row++, 0, 1, 4);
    pair(tr("x"), QStringLiteral("x"), in(&acre::PictureSource::x), tr("z"), QStringLiteral("z"),
        in(&acre::PictureSource::z));
    addNumber(grid, row, 0, tr("Scale"), QStringLiteral("scale"), in(&acre::PictureSource::scale));
    addChoice(
        grid, row, 2, tr("Outside"), QStringLiteral("outside"),
        {tr("a value"), tr("its edge"), tr("repeats")}, static_cast<int>(picture->outside),
        [](Layer& x, int i) {
          if (auto* s = std::get_if<acre::PictureSource>(&x.source))
            s->outside = static_cast<acre::PictureSource::Outside>(i);
        },
        tr("What lies beyond the picture."));
    ++row;
  } else if (const auto* walk = std::get_if<acre::WalkSource>(&l.source)) {
    pair(tr("Lowest"), QStringLiteral("low"), in(&acre::WalkSource::low), tr("Highest"),
        QStringLiteral("high"), in(&acre::WalkSource::high));
    pair(tr("Slope"), QStringLiteral("slope"), in(&acre::WalkSource::slope), tr("Change"),
        QStringLiteral("change"), in(&acre::WalkSource::change));
    addChoice(
        grid, row, 0, tr("Limits"), QStringLiteral("limits"),
        {tr("turn it back"), tr("are not kept")}, walk->limits ? 0 : 1,
        [](Layer& x, int i) {
          if (auto* s = std::get_if<acre::WalkSource>(&x.source)) s->limits = i == 0;
        },
        tr("Whether the skyline turns back before its lowest and highest."));
    ++row;
    grid->addWidget(new SkylinePanel(document_, field_, l.id), row++, 0, 1, 4);
  } else if (std::holds_alternative<acre::WaterSource>(l.source)) {
    addNumber(grid, row++, 0, tr("Reach"), QStringLiteral("reach"), in(&acre::WaterSource::reach));
  } else if (std::holds_alternative<acre::LatitudeSource>(l.source)) {
    pair(tr("Equator"), QStringLiteral("equator"), in(&acre::LatitudeSource::equator), tr("Reach"),
        QStringLiteral("reach"), in(&acre::LatitudeSource::reach));
  } else if (const auto* read = std::get_if<acre::FieldSource>(&l.source)) {
    QStringList names;
    std::vector<std::string> ids;
    int current = -1;
    for (const FieldRecipe* f : readableFields()) {
      if (f->id == read->field) current = static_cast<int>(ids.size());
      ids.push_back(f->id);
      names << QString::fromStdString(f->name);
    }
    addChoice(
        grid, row, 0, tr("Field"), QStringLiteral("source"), names, current,
        [ids](Layer& x, int i) {
          if (auto* s = std::get_if<acre::FieldSource>(&x.source))
            s->field = ids[static_cast<size_t>(i)];
        },
        tr("The field that this layer is."));
    ++row;
  } else if (std::holds_alternative<acre::TerraceSource>(l.source)) {
    pair(tr("Step"), QStringLiteral("height"), in(&acre::TerraceSource::height), tr("Flat"),
        QStringLiteral("flat"), in(&acre::TerraceSource::flat));
  } else if (std::holds_alternative<acre::FoldSource>(l.source)) {
    addNumber(grid, row++, 0, tr("About"), QStringLiteral("centre"), in(&acre::FoldSource::centre));
  } else if (std::holds_alternative<acre::RescaleSource>(l.source)) {
    pair(tr("From"), QStringLiteral("fromLow"), in(&acre::RescaleSource::fromLow), tr("to"),
        QStringLiteral("fromHigh"), in(&acre::RescaleSource::fromHigh));
    pair(tr("Becomes"), QStringLiteral("toLow"), in(&acre::RescaleSource::toLow), tr("to"),
        QStringLiteral("toHigh"), in(&acre::RescaleSource::toHigh));
  }
  const bool constant = std::holds_alternative<acre::ConstantSource>(l.source);
  const bool bare =
      acre::reshapes(l.source) && !std::holds_alternative<acre::EqualiseSource>(l.source);
  if (!constant && !bare) {
    const double reach = std::max(1.0, std::abs(l.amplitude));
    addNumber(
        grid, row, 0, tr("Amplitude"), QStringLiteral("amplitude"),
        [](Layer& x) { return &x.amplitude; }, std::pair(l.amplitude / 2, l.amplitude * 2));
    addNumber(
        grid, row, 2, tr("Offset"), QStringLiteral("offset"), [](Layer& x) { return &x.offset; },
        std::pair(l.offset - reach / 2, l.offset + reach / 2));
    ++row;
  }
  if (l.combine == acre::Combine::Mix && !acre::reshapes(l.source))
    addNumber(
        grid, row++, 0, tr("Share"), QStringLiteral("amount"), [](Layer& x) { return &x.amount; });
  if (l.combine == acre::Combine::SmoothMinimum || l.combine == acre::Combine::SmoothMaximum)
    addNumber(
        grid, row++, 0, tr("Blend"), QStringLiteral("amount"), [](Layer& x) { return &x.amount; });
  if (!std::holds_alternative<NoiseSource>(l.source)) return;
  addChoice(
      grid, row, 0, tr("Sampling"), QStringLiteral("sampling"),
      {tr("scattered"), tr("scattered, moved"), tr("placed")},
      !l.sampling           ? 0
      : l.sampling->scatter ? 1
                            : 2,
      [](Layer& x, int i) {
        if (i == 0) return x.sampling.reset();
        if (!x.sampling)
          x.sampling = acre::SamplingOffset{i == 2 ? 0.5 : 0, i == 2 ? 0.5 : 0, false};
        x.sampling->scatter = i == 1;
      },
      tr("Scattered: every octave is shifted by the seed, so that none vanishes at the origin.\n"
         "Moved: scattered, and moved by an offset of your own.\n"
         "Placed: sampled at the cell plus an offset of your own, in cells."));
  ++row;
  if (!l.sampling) return;
  pair(
      tr("Shift x"), QStringLiteral("shift.x"),
      [](Layer& x) { return x.sampling ? &x.sampling->x : nullptr; }, tr("Shift z"),
      QStringLiteral("shift.z"), [](Layer& x) { return x.sampling ? &x.sampling->z : nullptr; });
}

void HeightsEditor::buildParts(QVBoxLayout* column, const Layer& l) {
  auto* row = new QHBoxLayout;
  row->setSpacing(10);
  const bool reshape = acre::reshapes(l.source);
  const bool noise = std::holds_alternative<NoiseSource>(l.source);
  if (noise)
    addTick(
        row, tr("rotate"), QStringLiteral("rotate"), std::get<NoiseSource>(l.source).rotate,
        [](Layer& x, bool on) {
          if (auto* n = std::get_if<NoiseSource>(&x.source)) n->rotate = on;
        },
        tr("Turns each octave against the one before, which hides the lattice. Takes longer."));
  if (!reshape)
    addTick(
        row, tr("warp"), QStringLiteral("warp"), l.warp.has_value(),
        [](Layer& x, bool on) {
          if (!on) return x.warp.reset();
          acre::Warp& w = x.warp.emplace();
          w.noise.octaves = 2;
          if (const auto* n = std::get_if<NoiseSource>(&x.source)) w.noise.width = n->width;
          w.cells = std::max(1.0, w.noise.width / 5);
        },
        tr("Shifts the place where the layer is sampled by noise of its own."));
  addTick(
      row, tr("equalise"), QStringLiteral("equalise"), l.equalise,
      [](Layer& x, bool on) { x.equalise = on; },
      tr("Maps the layer through its own distribution to 0 … 1: a threshold at 0.35 then covers\n"
         "35 % of the world. Amplitude and offset apply afterwards."));
  addTick(
      row, tr("curve"), QStringLiteral("curve"), !l.curve.empty(),
      [this](Layer& x, bool on) {
        if (!on) return x.curve.clear();
        double low = 0, high = 1;
        if (!x.equalise) {
          const auto* f = statistics_.figures(field_, x.id);
          const double scale = x.amplitude == 0 ? 1 : x.amplitude;
          low = f ? (f->low - x.offset) / scale : -1;
          high = f ? (f->high - x.offset) / scale : 1;
          if (low > high) std::swap(low, high);
          if (!(high > low)) high = low + 1;
          low = std::floor(low * 100) / 100;
          high = std::ceil(high * 100) / 100;
        }
        x.curve = {{low, low}, {(low + high) / 2, (low + high) / 2}, {high, high}};
      },
      tr("Bends the layer's values, before amplitude and offset."));
  addTick(
      row, tr("clamp"), QStringLiteral("clamp"), l.clamp.has_value(),
      [this](Layer& x, bool on) {
        if (!on) return x.clamp.reset();
        const auto* f = statistics_.figures(field_, x.id);
        x.clamp = f ? acre::Clamp{std::floor(f->low), std::ceil(f->high)} : acre::Clamp{-10, 10};
      },
      tr("Cuts the layer's values off at two ends."));
  row->addStretch(1);
  column->addLayout(row);

  auto* grid = new QGridLayout;
  grid->setHorizontalSpacing(8);
  grid->setVerticalSpacing(6);
  grid->setColumnStretch(1, 1);
  grid->setColumnStretch(3, 1);
  int at = 0;
  if (l.warp && !reshape) {
    addNumber(
        grid, at, 0, tr("Warp"), QStringLiteral("warp.cells"),
        [](Layer& x) { return x.warp ? &x.warp->cells : nullptr; },
        std::pair(0.0, l.warp->cells * 2));
    addChoice(
        grid, at, 2, tr("Passes"), QStringLiteral("warp.passes"),
        {QStringLiteral("1"), QStringLiteral("2"), QStringLiteral("3")}, l.warp->passes - 1,
        [](Layer& x, int i) {
          if (x.warp) x.warp->passes = i + 1;
        },
        tr("More passes curl the ground more."));
    ++at;
    buildNoise(grid, at, QStringLiteral("warp."), true);
  }
  if (l.clamp) {
    addNumber(grid, at, 0, tr("Not below"), QStringLiteral("clamp.low"),
        [](Layer& x) { return x.clamp ? &x.clamp->low : nullptr; });
    addNumber(grid, at, 2, tr("not above"), QStringLiteral("clamp.high"),
        [](Layer& x) { return x.clamp ? &x.clamp->high : nullptr; });
    ++at;
  }
  const auto fields = readableFields();
  if (!fields.empty()) {
    QStringList names = {tr("everywhere")};
    std::vector<std::string> ids = {{}};
    int current = 0;
    for (const FieldRecipe* f : fields) {
      if (l.mask && l.mask->field == f->id) current = static_cast<int>(ids.size());
      ids.push_back(f->id);
      names << tr("where %1").arg(QString::fromStdString(f->name));
    }
    addChoice(
        grid, at, 0, tr("Acts"), QStringLiteral("mask"), names, current,
        [ids](Layer& x, int i) {
          if (i == 0) return x.mask.reset();
          if (!x.mask) x.mask = acre::Mask{{}, 0.0, std::nullopt, 0.2};
          x.mask->field = ids[static_cast<size_t>(i)];
        },
        tr("A mask: the layer acts only where another field lies in a range."));
    if (l.mask) {
      addNumber(grid, at, 2, tr("edge"), QStringLiteral("mask.soft"),
          [](Layer& x) { return x.mask ? &x.mask->soft : nullptr; });
      ++at;
      if (l.mask->low)
        addNumber(grid, at, 0, tr("is from"), QStringLiteral("mask.low"),
            [](Layer& x) { return x.mask && x.mask->low ? &*x.mask->low : nullptr; });
      if (l.mask->high)
        addNumber(grid, at, 2, tr("below"), QStringLiteral("mask.high"),
            [](Layer& x) { return x.mask && x.mask->high ? &*x.mask->high : nullptr; });
    }
    ++at;
  }
  column->addLayout(grid);
  if (l.mask) {
    auto* ends = new QHBoxLayout;
    addTick(
        ends, tr("lower end"), QStringLiteral("mask.hasLow"), l.mask->low.has_value(),
        [](Layer& x, bool on) {
          if (x.mask) x.mask->low = on ? std::optional(0.0) : std::nullopt;
        },
        tr("Off: the range has no lower end."));
    addTick(
        ends, tr("upper end"), QStringLiteral("mask.hasHigh"), l.mask->high.has_value(),
        [](Layer& x, bool on) {
          if (x.mask) x.mask->high = on ? std::optional(x.mask->low.value_or(0) + 1) : std::nullopt;
        },
        tr("Off: the range has no upper end."));
    ends->addStretch(1);
    column->addLayout(ends);
  }
  if (!l.curve.empty()) {
    curve_ = new CurveView;
    curve_->setCurve(l.curve);
    connect(curve_, &CurveView::edited, this, [this](const acre::Curve& curve, bool during) {
      editLayer(
          tr("Curve"), [&](Layer& x) { x.curve = curve; },
          during ? QStringLiteral("curve") : QString());
    });
    connect(curve_, &CurveView::gestureEnded, this, [this] { document_.endGesture(); });
    column->addWidget(curve_);
  }
}

}  // namespace app
