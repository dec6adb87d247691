// The controls of the layer that is chosen in the editor of Heights.
#include <QMenu>
#include <QToolButton>
#include <algorithm>
#include <cmath>

#include "app/edit/heights_editor.h"
#include "app/edit/lists.h"
#include "app/edit/shape.h"
#include "app/edit/skyline_panel.h"
#include "app/look/look.h"
#include "recipe/validate.h"

namespace app {
namespace {

using acre::FieldRecipe;
using acre::Layer;
using acre::NoiseSource;
using acre::Recipe;

/// Numbers of what a layer's source says, in the order of its declaration.
struct SourceNumbers : acre::PlainVisitor {
  struct One {
    acre::About about;
    double* at;
  };
  explicit SourceNumbers(Layer& layer) : source_(&layer.source), end_(&layer.source + 1) {
    acre::look(*this, layer);
  }
  void number(const acre::About& about, double& v) override {
    const void* at = &v;
    if (std::greater_equal<>()(at, source_) && std::less<>()(at, end_))
      found.push_back({about, &v});
  }
  std::vector<One> found;

 private:
  const void* source_;
  const void* end_;
};

template <class S>
S* sourceIn(Layer& layer) {
  return std::get_if<S>(&layer.source);
}

/// The values of a choice's get and set for a kind of source.
template <class S, class Get>
auto ofSource(Get&& get) {
  return [get](const Layer& l) {
    const auto* s = std::get_if<S>(&l.source);
    return s ? get(*s) : 0;
  };
}
template <class S, class Set>
auto toSource(Set&& set) {
  return [set](Layer& l, int chosen) {
    if (auto* s = sourceIn<S>(l)) set(*s, chosen);
  };
}

}  // namespace

std::vector<const FieldRecipe*> HeightsEditor::readableFields() const {
  const Recipe& recipe = document_.recipe();
  const bool early = field_ == acre::kHeightsId || scope_of_ == Scope::Climate;
  auto fields = early ? acre::fieldsBeforeWater(recipe) : acre::fieldsOf(recipe);
  std::erase_if(fields, [&](const FieldRecipe* f) {
    const bool tooLate = field_ == acre::kHeightsId && acre::climateAxisOf(recipe, f->id);
    return f->id == field_ || tooLate;
  });
  return fields;
}

auto HeightsEditor::placeOfChosen() const -> Place<Layer> {
  return [field = field_, id = waves_->chosen()](Recipe& r) -> Layer* {
    FieldRecipe* f = acre::fieldOf(r, field);
    return f ? withId(f->layers, id) : nullptr;
  };
}

void HeightsEditor::editLayer(
    const QString& step, const std::function<void(Layer&)>& edit, const QString& mergeKey) {
  apply(
      step,
      [&](Recipe& r) {
        if (Layer* l = placeOfChosen()(r)) edit(*l);
      },
      mergeKey);
}

std::string HeightsEditor::shape() const {
  const Layer* l = layer();
  std::string out = field_ + ">" + (l ? l->id + "|" + shapeOf(*l) : std::string("none"));
  for (const FieldRecipe* f : acre::fieldsOf(document_.recipe())) out += f->id + "=" + f->name;
  return out;
}

// ---- the grid ----------------------------------------------------------------------------------

auto HeightsEditor::newGrid(QVBoxLayout* column) -> Grid {
  auto* grid = new QGridLayout;
  grid->setHorizontalSpacing(8);
  grid->setVerticalSpacing(6);
  grid->setColumnStretch(1, 1);
  grid->setColumnStretch(3, 1);
  column->addLayout(grid);
  return {grid};
}

void HeightsEditor::Grid::add(const QString& words, QWidget* control) {
  if (auto* field = qobject_cast<NumberField*>(control)) field->showUnit();
  control->setMinimumWidth(0);
  control->setMaximumWidth(QWIDGETSIZE_MAX);
  auto* label = new QLabel(words);
  label->setToolTip(control->toolTip());
  layout->addWidget(label, row, column);
  layout->addWidget(control, row, column + 1);
  column += 2;
  if (column == 4) endRow();
}

void HeightsEditor::Grid::endRow() {
  if (column == 0) return;
  column = 0;
  ++row;
}

void HeightsEditor::rebuildNumbers() {
  built_ = shape();
  curve_ = nullptr;
  layerFigures_ = nullptr;
  layerPicture_ = nullptr;
  layerBins_ = nullptr;
  QVBoxLayout* column = newBody(numbersColumn_, 0);
  if (const Layer* l = layer()) {
    const auto made = form<Layer>(*l, placeOfChosen(), QStringLiteral("layer"), tr("the layer"));
    buildHead(column, made, *l);
    Grid grid = newGrid(column);
    buildSource(grid, made, *l);
    buildParts(column, made, *l);
  }
  refreshControls();
  refreshFigures();
}

// ---- the head ----------------------------------------------------------------------------------

void HeightsEditor::buildHead(QVBoxLayout* column, const LayerForm& made, const Layer& l) {
  Row row(column, 6);
  if (!acre::reshapes(l.source)) {
    auto* combine = made.choice(
        "combine", tr("Combine"), tr("How the layer joins the sum of those above it."),
        {tr("+ add"), tr("× multiply"), tr("− subtract"), tr("minimum"), tr("maximum"),
            tr("smooth minimum"), tr("smooth maximum"), tr("mix"), tr("= replace")},
        [](const Layer& layer) { return static_cast<int>(layer.combine); },
        [](Layer& layer, int chosen) {
          const bool was = layer.combine == acre::Combine::Mix;
          layer.combine = static_cast<acre::Combine>(chosen);
          if ((layer.combine == acre::Combine::Mix) != was)
            layer.amount = layer.combine == acre::Combine::Mix ? 0.5 : 4;
        });
    combine->setFixedWidth(112);
    row.add(combine);
  }
  row.add(made.text(&Layer::name), 1).add(layerMenu());
  auto* note = bindNote(
      made.named("note"), tr("Note on a layer"),
      [place = made.place()](const Recipe& r) -> std::optional<std::string> {
        const Layer* x = place(const_cast<Recipe&>(r));  // Only looked at.
        return x ? std::optional(x->note) : std::nullopt;
      },
      [place = made.place()](Recipe& r, const std::string& text) {
        if (Layer* x = place(r)) x->note = text;
      });
  note->setVisible(!l.note.empty());
  connect(note, &TextBox::left, note, [note] { note->setVisible(!note->toPlainText().isEmpty()); });
  column->addWidget(note);
  column->addLayout(layerFigures());
}

QToolButton* HeightsEditor::layerMenu() {
  auto* more = new QToolButton;
  more->setText(tr("Layer ▾"));
  more->setObjectName(QStringLiteral("layer.menu"));
  more->setPopupMode(QToolButton::InstantPopup);
  more->setFixedHeight(look::kControl);
  auto* menu = new QMenu(more);
  const auto act = [&](const QString& text, const char* id, std::function<void()> run) {
    menu->addAction(text, this, std::move(run))
        ->setObjectName(QStringLiteral("layer.") + QLatin1String(id));
  };
  act(tr("Move up\tAlt+Up"), "up", [this] { reorder(-1); });
  act(tr("Move down\tAlt+Down"), "down", [this] { reorder(1); });
  act(tr("Duplicate\tCtrl+D"), "duplicate", [this] { duplicateLayer(); });
  act(tr("Note"), "writeNote", [this] {
    auto* note = findChild<TextBox*>(QStringLiteral("layer.note"));
    note->show();
    note->setFocus();
  });
  act(tr("Delete\tDel"), "delete", [this] { deleteLayer(waves_->chosen()); });
  more->setMenu(menu);
  return more;
}

QHBoxLayout* HeightsEditor::layerFigures() {
  auto* figures = new QHBoxLayout;
  layerPicture_ = new QLabel;
  layerPicture_->setFixedSize(kSmallPicture);
  layerPicture_->setAccessibleName(tr("The layer alone, where the map is"));
  layerPicture_->setToolTip(tr("The layer alone, where the map is: dark is low, light is high."));
  layerFigures_ = caption({});
  layerFigures_->setObjectName(QStringLiteral("layer.figures"));
  layerFigures_->setWordWrap(true);
  layerBins_ = new QLabel;
  layerBins_->setObjectName(QStringLiteral("layer.bins"));
  layerBins_->setFixedSize(kBinsWidth, kSmallPicture.height());
  layerBins_->setAccessibleName(tr("How often the layer brings each value"));
  layerBins_->setToolTip(
      tr("How often the layer brings each value, from its lowest to its "
         "highest, over the sampled world."));
  figures->addWidget(layerPicture_);
  figures->addWidget(layerFigures_, 1);
  figures->addWidget(layerBins_);
  return figures;
}

// ---- the source --------------------------------------------------------------------------------

void HeightsEditor::buildNoise(
    Grid& grid, const Form<NoiseSource>& made, const NoiseSource& now, bool warp) {
  grid.add(warp ? tr("Warp by") : tr("Noise"),
      made.choice(
          "basis", tr("Noise"),
          tr("gradient: smooth hills. value: blockier. simplex: smooth without lattice "
             "directions.\n"
             "cellular: distances to scattered points. white: every cell by itself.\n"
             "gradient 2002: the published table; it ignores the seed and repeats every 256 "
             "features."),
          {tr("gradient"), tr("value"), tr("simplex"), tr("cellular"), tr("white"),
              tr("gradient 2002")},
          [](const NoiseSource& n) { return static_cast<int>(n.basis); },
          [](NoiseSource& n, int chosen) { n.basis = static_cast<acre::Basis>(chosen); }));
  grid.add(tr("Fractal"),
      made.choice(&NoiseSource::fractal,
          {tr("single octave"), tr("fBm"), tr("ridged"), tr("billowed")},
          tr("Single: one smooth octave. fBm: finer octaves added, each narrower and weaker.\n"
             "Ridged: sharp crests (1 − 2|n|). Billowed: sharp hollows (2|n| − 1).")));
  const auto number = [&](const QString& words, auto member, auto... ends) {
    NumberField* field = made.number(member, words);
    if constexpr (sizeof...(ends) == 2) previews_->setEnds(field, ends...);
    grid.add(words, field);
  };
  number(tr("Width"), &NoiseSource::width);
  if (now.fractal != acre::Fractal::Single) {
    number(tr("Octaves"), &NoiseSource::octaves);
    number(tr("Lacunarity"), &NoiseSource::lacunarity, 1.5, 3.0);
    number(tr("Gain"), &NoiseSource::gain, 0.3, 0.7);
  }
  grid.endRow();
  if (now.basis != acre::Basis::Cellular || warp) return;
  grid.add(tr("Result"),
      made.choice(&NoiseSource::result,
          {tr("distance to 1st"), tr("distance to 2nd"), tr("difference"), tr("value of site")},
          tr("What is taken from the scattered points: distances in feature widths, or a random\n"
             "value of the nearest.")));
  grid.add(tr("Metric"),
      made.choice(&NoiseSource::metric, {tr("Euclidean"), tr("Manhattan"), tr("Chebyshev")},
          tr("How distance is measured: round, diamonds, squares.")));
  number(tr("Jitter"), &NoiseSource::jitter, 0.0, 1.0);
  grid.endRow();
}

void HeightsEditor::buildSource(Grid& grid, const LayerForm& made, const Layer& l) {
  if (const auto* noise = std::get_if<NoiseSource>(&l.source)) {
    buildNoise(
        grid, made.template within<NoiseSource>(*noise, sourceIn<NoiseSource>), *noise, false);
  } else {
    if (const auto* picture = std::get_if<acre::PictureSource>(&l.source))
      grid.layout->addWidget(
          new QLabel(QString::fromStdString(picture->file)), grid.row++, 0, 1, 4);
    buildSourceChoices(grid, made, l);
    buildSourceNumbers(grid, l);
    // The ends of its ranges are told of as one each.
    if (std::holds_alternative<acre::RescaleSource>(l.source)) {
      using acre::RescaleSource;
      const auto end = [&](const QString& words, const char* key, double RescaleSource::*member) {
        grid.add(words,
            made.number(
                key, tr("Ends of a rescaling"), {acre::limits::altitude, 0.5, false, false, {}},
                tr("The first range, of the sum before it, becomes the second, and is carried on "
                   "beyond."),
                [member](const Layer& x) -> std::optional<double> {
                  const auto* s = std::get_if<RescaleSource>(&x.source);
                  return s ? std::optional(s->*member) : std::nullopt;
                },
                [member](Layer& x, double v) {
                  if (auto* s = sourceIn<RescaleSource>(x)) s->*member = v;
                }));
      };
      end(tr("From"), "fromLow", &RescaleSource::fromLow);
      end(tr("to"), "fromHigh", &RescaleSource::fromHigh);
      end(tr("Becomes"), "toLow", &RescaleSource::toLow);
      end(tr("to"), "toHigh", &RescaleSource::toHigh);
    }
    if (std::holds_alternative<acre::WalkSource>(l.source))
      grid.layout->addWidget(new SkylinePanel(document_, field_, l.id), grid.row++, 0, 1, 4);
  }
  buildSum(grid, made, l);
  if (std::holds_alternative<NoiseSource>(l.source)) buildSampling(grid, made, l);
}

void HeightsEditor::buildSourceChoices(Grid& grid, const LayerForm& made, const Layer& l) {
  using namespace acre;
  if (std::holds_alternative<RampSource>(l.source))
    grid.add(tr("Along"),
        made.choice("axis", tr("Along"), tr("The axis along which the ramp rises."),
            {tr("x, eastward"), tr("z, southward")},
            ofSource<RampSource>([](const auto& s) { return static_cast<int>(s.axis); }),
            toSource<RampSource>([](auto& s, int i) { s.axis = static_cast<Axis>(i); })));
  if (std::holds_alternative<IslandSource>(l.source))
    grid.add(
        tr("Shape"), made.choice("shape", tr("Shape"), tr("The outline before it wobbles."),
                         {tr("round"), tr("square")},
                         ofSource<IslandSource>([](const auto& s) { return s.square ? 1 : 0; }),
                         toSource<IslandSource>([](auto& s, int i) { s.square = i == 1; })));
  if (std::holds_alternative<PictureSource>(l.source))
    grid.add(tr("Outside"),
        made.choice("outside", tr("Outside"), tr("What lies beyond the picture."),
            {tr("a value"), tr("its edge"), tr("repeats")},
            ofSource<PictureSource>([](const auto& s) { return static_cast<int>(s.outside); }),
            toSource<PictureSource>(
                [](auto& s, int i) { s.outside = static_cast<PictureSource::Outside>(i); })));
  if (std::holds_alternative<WalkSource>(l.source))
    grid.add(tr("Limits"), made.choice("limits", tr("Limits"),
                               tr("Whether the skyline turns back before its lowest and highest."),
                               {tr("turn it back"), tr("are not kept")},
                               ofSource<WalkSource>([](const auto& s) { return s.limits ? 0 : 1; }),
                               toSource<WalkSource>([](auto& s, int i) { s.limits = i == 0; })));
  if (std::holds_alternative<FreshWaterSource>(l.source))
    grid.add(tr("Tells"),
        made.choice("tells", tr("Tells"),
            tr("Distance: cells to the nearest river or lake, at most 46. Level: cells that its\n"
               "surface lies above the sea, 0 outside. Mark: a number from 0 to 1 that the water\n"
               "of one node shares, 0 outside."),
            {tr("the distance"), tr("the level"), tr("a mark")},
            ofSource<FreshWaterSource>([](const auto& s) { return static_cast<int>(s.tells); }),
            toSource<FreshWaterSource>(
                [](auto& s, int i) { s.tells = static_cast<FreshWaterSource::Tells>(i); })));
  if (std::holds_alternative<FieldSource>(l.source)) {
    Offered fields;
    for (const FieldRecipe* f : readableFields())
      fields.emplace_back(QString::fromStdString(f->name), f->id);
    grid.add(tr("Field"),
        bindChoice(
            made.named("source"), tr("Field"), tr("The field that this layer is."), fields,
            [place = made.place()](const Recipe& r) -> std::optional<std::string> {
              Layer* x = place(const_cast<Recipe&>(r));  // Only looked at.
              auto* s = x ? sourceIn<FieldSource>(*x) : nullptr;
              return s ? std::optional(s->field) : std::nullopt;
            },
            [place = made.place()](Recipe& r, const std::string& id) {
              Layer* x = place(r);
              if (auto* s = x ? sourceIn<FieldSource>(*x) : nullptr) s->field = id;
            }));
  }
  grid.endRow();
}

void HeightsEditor::buildSourceNumbers(Grid& grid, const Layer& l) {
  Layer now = l;
  for (const auto& one : SourceNumbers(now).found) {
    const auto at = [find = placeOfChosen(), key = std::string(one.about.key)](
                        Recipe& r) -> double* {
      Layer* layer = find(r);
      if (!layer) return nullptr;
      for (const auto& each : SourceNumbers(*layer).found)
        if (each.about.key == key) return each.at;
      return nullptr;
    };
    Number number = numberBy(one.about);
    number.spec.bare = false;
    number.access = {[at](const Recipe& r) -> std::optional<double> {
                       const double* v = at(const_cast<Recipe&>(r));  // Only looked at.
                       return v ? std::optional(*v) : std::nullopt;
                     },
        [at](Recipe& r, double v) {
          if (double* to = at(r)) *to = v;
        }};
    grid.add(number.title, bindNumber(QStringLiteral("layer"), tr("the layer"), number));
  }
  grid.endRow();
}

/// How the layer enters the sum.
void HeightsEditor::buildSum(Grid& grid, const LayerForm& made, const Layer& l) {
  const bool constant = std::holds_alternative<acre::ConstantSource>(l.source);
  const bool bare =
      acre::reshapes(l.source) && !std::holds_alternative<acre::EqualiseSource>(l.source);
  if (!constant && !bare) {
    const double reach = std::max(1.0, std::abs(l.amplitude));
    grid.add(tr("Amplitude"), made.number(&Layer::amplitude));
    NumberField* offset = made.number(&Layer::offset);
    previews_->setEnds(offset, l.offset - reach / 2, l.offset + reach / 2);
    grid.add(tr("Offset"), offset);
  }
  const bool smooth =
      l.combine == acre::Combine::SmoothMinimum || l.combine == acre::Combine::SmoothMaximum;
  if (smooth || (l.combine == acre::Combine::Mix && !acre::reshapes(l.source)))
    grid.add(smooth ? tr("Blend") : tr("Share"), made.number(&Layer::amount));
  grid.endRow();
}

void HeightsEditor::buildSampling(Grid& grid, const LayerForm& made, const Layer& l) {
  grid.add(tr("Sampling"),
      made.choice(
          "sampling", tr("Sampling"),
          tr("Scattered: every octave is shifted by the seed, so that none vanishes at the "
             "origin.\n"
             "Moved: scattered, and moved by an offset of your own.\n"
             "Placed: sampled at the cell plus an offset of your own, in cells."),
          {tr("scattered"), tr("scattered, moved"), tr("placed")},
          [](const Layer& x) { return !x.sampling           ? 0
                                      : x.sampling->scatter ? 1
                                                            : 2; },
          [](Layer& x, int i) {
            if (i == 0) return x.sampling.reset();
            if (!x.sampling)
              x.sampling = acre::SamplingOffset{i == 2 ? 0.5 : 0, i == 2 ? 0.5 : 0, false};
            x.sampling->scatter = i == 1;
          }));
  grid.endRow();
  if (!l.sampling) return;
  const auto shift = made.template within<acre::SamplingOffset>(
      *l.sampling, [](Layer& x) { return x.sampling ? &*x.sampling : nullptr; },
      QStringLiteral("layer.shift"));
  grid.add(tr("Shift x"), shift.number(&acre::SamplingOffset::x));
  grid.add(tr("Shift z"), shift.number(&acre::SamplingOffset::z));
}

// ---- what is done with it ----------------------------------------------------------------------

namespace {

void setWarp(Layer& x, bool on) {
  if (!on) return x.warp.reset();
  acre::Warp& w = x.warp.emplace();
  w.noise.octaves = 2;
  if (const auto* n = std::get_if<NoiseSource>(&x.source)) w.noise.width = n->width;
  w.cells = std::max(1.0, w.noise.width / 5);
}

/// A straight curve over what the layer brings. f: its figures; nothing: not measured yet.
void setCurve(Layer& x, const acre::FieldFigures* f) {
  double low = 0, high = 1;
  if (!x.equalise) {
    const double scale = x.amplitude == 0 ? 1 : x.amplitude;
    low = f ? (f->low - x.offset) / scale : -1;
    high = f ? (f->high - x.offset) / scale : 1;
    if (low > high) std::swap(low, high);
    if (!(high > low)) high = low + 1;
    low = std::floor(low * 100) / 100;
    high = std::ceil(high * 100) / 100;
  }
  x.curve = {{low, low}, {(low + high) / 2, (low + high) / 2}, {high, high}};
}

}  // namespace

void HeightsEditor::buildSwitches(QVBoxLayout* column, const LayerForm& made, const Layer& l) {
  Row row(column, 10);
  if (const auto* noise = std::get_if<NoiseSource>(&l.source)) {
    auto* rotate = made.template within<NoiseSource>(*noise, sourceIn<NoiseSource>)
                       .tick(&NoiseSource::rotate, tr("rotate"));
    rotate->setToolTip(
        tr("Turns each octave against the one before, which hides the lattice. Takes longer."));
    row.add(rotate);
  }
  if (!acre::reshapes(l.source))
    row.add(made.tick(
        "warp", tr("warp"), tr("Warp"),
        tr("Shifts the place where the layer is sampled by noise of its own."),
        [](const Layer& x) { return x.warp.has_value(); }, setWarp));
  auto* equalise = made.tick(&Layer::equalise, tr("equalise"));
  equalise->setToolTip(
      tr("Maps the layer through its own distribution to 0 … 1: a threshold at 0.35 then covers\n"
         "35 % of the world. Amplitude and offset apply afterwards."));
  row.add(equalise);
  row.add(made.tick(
      "curve", tr("curve"), tr("Curve"),
      tr("Bends the layer's values, before amplitude and offset."),
      [](const Layer& x) { return !x.curve.empty(); },
      [this](Layer& x, bool on) {
        on ? setCurve(x, statistics_.figures(field_, x.id)) : x.curve.clear();
      }));
  row.add(made.tick(
      "clamp", tr("clamp"), tr("Clamp"), tr("Cuts the layer's values off at two ends."),
      [](const Layer& x) { return x.clamp.has_value(); },
      [this](Layer& x, bool on) {
        if (!on) return x.clamp.reset();
        const auto* f = statistics_.figures(field_, x.id);
        x.clamp = f ? acre::Clamp{std::floor(f->low), std::ceil(f->high)} : acre::Clamp{-10, 10};
      }));
  row.rest();
}

void HeightsEditor::buildParts(QVBoxLayout* column, const LayerForm& made, const Layer& l) {
  buildSwitches(column, made, l);
  Grid grid = newGrid(column);
  if (l.warp && !acre::reshapes(l.source)) {
    const auto warp = made.template within<acre::Warp>(
        *l.warp, [](Layer& x) { return x.warp ? &*x.warp : nullptr; },
        QStringLiteral("layer.warp"));
    NumberField* cells = warp.number(&acre::Warp::cells);
    previews_->setEnds(cells, 0, l.warp->cells * 2);
    grid.add(tr("Warp"), cells);
    grid.add(tr("Passes"), warp.choice(
                               "passes", tr("Passes"), tr("More passes curl the ground more."),
                               {QStringLiteral("1"), QStringLiteral("2"), QStringLiteral("3")},
                               [](const acre::Warp& w) { return w.passes - 1; },
                               [](acre::Warp& w, int i) { w.passes = i + 1; }));
    buildNoise(grid,
        warp.template within<NoiseSource>(l.warp->noise, [](acre::Warp& w) { return &w.noise; }),
        l.warp->noise, true);
  }
  if (l.clamp) {
    const auto clamp = made.template within<acre::Clamp>(
        *l.clamp, [](Layer& x) { return x.clamp ? &*x.clamp : nullptr; },
        QStringLiteral("layer.clamp"));
    grid.add(tr("Not below"), clamp.number(&acre::Clamp::low));
    grid.add(tr("not above"), clamp.number(&acre::Clamp::high));
  }
  buildMask(column, grid, made, l);
  if (l.curve.empty()) return;
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

void HeightsEditor::buildMask(
    QVBoxLayout* column, Grid& grid, const LayerForm& made, const Layer& l) {
  const auto fields = readableFields();
  if (fields.empty()) return;
  Offered where = {{tr("everywhere"), {}}};
  for (const FieldRecipe* f : fields)
    where.emplace_back(tr("where %1").arg(QString::fromStdString(f->name)), f->id);
  grid.add(tr("Acts"),
      bindChoice(
          made.named("mask"), tr("Acts"),
          tr("A mask: the layer acts only where another field lies in a range."), where,
          [place = made.place()](const Recipe& r) -> std::optional<std::string> {
            const Layer* x = place(const_cast<Recipe&>(r));  // Only looked at.
            return x ? std::optional(x->mask ? x->mask->field : std::string()) : std::nullopt;
          },
          [place = made.place()](Recipe& r, const std::string& id) {
            Layer* x = place(r);
            if (!x) return;
            if (id.empty()) return x->mask.reset();
            if (!x->mask) x->mask = acre::Mask{{}, 0.0, std::nullopt, 0.2};
            x->mask->field = id;
          }));
  if (!l.mask) return;
  const auto mask = made.template within<acre::Mask>(
      *l.mask, [](Layer& x) { return x.mask ? &*x.mask : nullptr; }, QStringLiteral("layer.mask"));
  grid.add(tr("edge"), mask.number(&acre::Mask::soft));
  if (l.mask->low) grid.add(tr("is from"), mask.number(&acre::Mask::low));
  if (l.mask->high) grid.add(tr("below"), mask.number(&acre::Mask::high));
  Row(column)
      .add(mask.tick(
          "hasLow", tr("lower end"), tr("Lower end of a mask"),
          tr("Off: the range has no lower end."),
          [](const acre::Mask& m) { return m.low.has_value(); },
          [](acre::Mask& m, bool on) { m.low = on ? std::optional(0.0) : std::nullopt; }))
      .add(mask.tick(
          "hasHigh", tr("upper end"), tr("Upper end of a mask"),
          tr("Off: the range has no upper end."),
          [](const acre::Mask& m) { return m.high.has_value(); },
          [](acre::Mask& m, bool on) {
            m.high = on ? std::optional(m.low.value_or(0) + 1) : std::nullopt;
          }))
      .rest();
}

}  // namespace app
