#include "app/edit/heights_editor.h"

#include "app/edit/tick.h"

#include <QMenu>
#include <QPainter>
#include <QSignalBlocker>
#include <QToolButton>
#include <algorithm>
#include <array>
#include <cmath>

#include "app/edit/arithmetic.h"
#include "app/edit/lists.h"
#include "app/look/look.h"
#include "audit/plumb.h"
#include "output/picture.h"

namespace app {
namespace {

using acre::FieldRecipe;
using acre::Layer;
using acre::NoiseSource;
using acre::Recipe;

/// What "Add layer" offers, with values that show something at once.
struct Offer {
  const char* name;
  acre::Source source;
};

std::vector<Offer> offers() {
  const auto noise = [](acre::Basis basis, acre::Fractal fractal, double width) {
    NoiseSource n;
    n.basis = basis;
    n.fractal = fractal;
    n.width = width;
    return n;
  };
  using acre::Basis;
  using acre::Fractal;
  return {{QT_TR_NOOP("Gradient noise"), noise(Basis::Gradient, Fractal::Fbm, 96)},
      {QT_TR_NOOP("Ridges"), noise(Basis::Gradient, Fractal::Ridged, 160)},
      {QT_TR_NOOP("Billows"), noise(Basis::Gradient, Fractal::Billowed, 120)},
      {QT_TR_NOOP("Simplex noise"), noise(Basis::Simplex, Fractal::Fbm, 96)},
      {QT_TR_NOOP("Value noise"), noise(Basis::Value, Fractal::Fbm, 64)},
      {QT_TR_NOOP("Cellular noise"), noise(Basis::Cellular, Fractal::Single, 80)},
      {QT_TR_NOOP("White noise"), noise(Basis::White, Fractal::Single, 1)},
      {QT_TR_NOOP("Gradient noise, table of 2002"),
          noise(Basis::Gradient2002, Fractal::Single, 64)},
      {nullptr, {}}, {QT_TR_NOOP("Constant"), acre::ConstantSource{10}},
      {QT_TR_NOOP("Ramp"), acre::RampSource{}},
      {QT_TR_NOOP("Distance to a point"), acre::DistanceSource{}},
      {QT_TR_NOOP("Island"), acre::IslandSource{}}, {QT_TR_NOOP("Picture…"), acre::PictureSource{}},
      {QT_TR_NOOP("Another field"), acre::FieldSource{}},
      {QT_TR_NOOP("Latitude"), acre::LatitudeSource{}},
      {QT_TR_NOOP("Altitude above the sea"), acre::AltitudeSource{}},
      {QT_TR_NOOP("Distance from water"), acre::WaterSource{}},
      {QT_TR_NOOP("Rivers and lakes"), acre::FreshWaterSource{}},
      {QT_TR_NOOP("Skyline walk"), acre::WalkSource{}}, {nullptr, {}},
      {QT_TR_NOOP("Terraces"), acre::TerraceSource{}}, {QT_TR_NOOP("Fold"), acre::FoldSource{}},
      {QT_TR_NOOP("Rescale"), acre::RescaleSource{}},
      {QT_TR_NOOP("Equalise"), acre::EqualiseSource{}}};
}

/// A histogram as a small plot: bars on a base line.
QPixmap drawnBins(const std::vector<uint32_t>& bins, QSize size, double ratio) {
  QPixmap out(size * ratio);
  out.setDevicePixelRatio(ratio);
  out.fill(look::tokens().sheet);
  if (bins.empty()) return out;
  QPainter p(&out);
  constexpr size_t kBars = 32;
  std::array<uint64_t, kBars> bars{};
  for (size_t i = 0; i < bins.size(); ++i) bars[i * kBars / bins.size()] += bins[i];
  const auto most =
      static_cast<double>(std::max<uint64_t>(1, *std::max_element(bars.begin(), bars.end())));
  const double wide = static_cast<double>(size.width()) / kBars;
  for (size_t i = 0; i < kBars; ++i) {
    const double tall = static_cast<double>(bars[i]) / most * (size.height() - 4);
    p.fillRect(QRectF(static_cast<double>(i) * wide, size.height() - 1 - tall, wide, tall),
        look::tokens().soft);
  }
  p.fillRect(0, size.height() - 1, size.width(), 1, look::tokens().ink);
  return out;
}

}  // namespace

HeightsEditor::HeightsEditor(
    Document& document, Statistics& statistics, Scope scope, QWidget* parent)
    : Editor(document, parent),
      statistics_(statistics),
      scope_of_(scope),
      field_(scope == Scope::Heights ? acre::kHeightsId : acre::kTemperatureId),
      courier_(std::make_shared<Courier<HeightsEditor>>(this)) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(16, 8, 16, 12);
  column->setSpacing(look::kSpace);

  buildFields(column);
  buildUsers(column);
  waves_ = new WavesView(document_);
  connect(waves_, &WavesView::chosenChanged, this, [this] {
    rebuildNumbers();
    emit layerChanged();
  });
  connect(waves_, &WavesView::aloneRequested, this, &HeightsEditor::aloneRequested);
  connect(waves_, &WavesView::deleteRequested, this,
      [this](const QString& id) { deleteLayer(id.toStdString()); });
  connect(waves_, &WavesView::numbersRequested, this, [this] {
    if (auto* first = findChild<NumberField*>(QStringLiteral("layer.amplitude"))) first->setFocus();
  });
  column->addWidget(waves_);

  buildFault(column);
  auto* holder = new QWidget;
  numbersColumn_ = new QVBoxLayout(holder);
  numbersColumn_->setContentsMargins(0, 0, 0, 0);
  column->addWidget(holder);

  buildHistogram(column);
  column->addStretch(1);
  connect(&statistics_, &Statistics::changed, this, &HeightsEditor::refreshFigures);
  waves_->setField(field_);
  refresh();
}

void HeightsEditor::buildFields(QVBoxLayout* column) {
  auto* head = new QHBoxLayout;
  fields_ = new Choice;
  fields_->setObjectName(QStringLiteral("heights.field"));
  fields_->setAccessibleName(tr("Field"));
  fields_->setToolTip(
      tr("The field whose layers stand below: the heights, or a further one that masks and other\n"
         "layers can read."));
  connect(fields_, &Choice::activated, this,
      [this] { chooseField(fields_->currentData().toString().toStdString()); });
  auto* addFieldButton = new QPushButton(tr("New field"));
  addFieldButton->setObjectName(QStringLiteral("heights.addField"));
  addFieldButton->setToolTip(tr("A further field, for masks and as a layer of others."));
  connect(addFieldButton, &QPushButton::clicked, this, &HeightsEditor::addField);
  removeField_ = new QPushButton(tr("Delete field"));
  removeField_->setObjectName(QStringLiteral("heights.deleteField"));
  connect(removeField_, &QPushButton::clicked, this, &HeightsEditor::deleteField);
  auto* add = new QToolButton;
  add->setText(tr("Add layer ▾"));
  add->setObjectName(QStringLiteral("heights.add"));
  add->setPopupMode(QToolButton::InstantPopup);
  add->setFixedHeight(look::kControl);
  auto* menu = new QMenu(add);
  for (const Offer& offer : offers()) {
    if (!offer.name) {
      menu->addSeparator();
      continue;
    }
    auto* action = menu->addAction(
        tr(offer.name), this, [this, offer] { addLayer(offer.source, tr(offer.name)); });
    action->setObjectName(QStringLiteral("heights.add.") + QLatin1String(offer.name));
    if (std::holds_alternative<acre::AltitudeSource>(offer.source)) altitudeOffer_ = action;
    if (std::holds_alternative<acre::WaterSource>(offer.source)) waterOffer_ = action;
    if (std::holds_alternative<acre::FreshWaterSource>(offer.source)) freshOffer_ = action;
  }
  add->setMenu(menu);
  head->addWidget(fields_, 1);
  head->addWidget(addFieldButton);
  addFieldButton->setVisible(scope_of_ == Scope::Heights);
  head->addWidget(removeField_);
  head->addWidget(add);
  column->addLayout(head);

  fillDown_ = new Tick(tr("Fill down beside lower neighbours"));
  fillDown_->setObjectName(QStringLiteral("heights.fillDown"));
  fillDown_->setToolTip(
      tr("Chunks say how many cells below each top must be there so that no hole opens on steep\n"
         "ground. Worlds of blocks are filled down to their bottom anyway."));
  connect(fillDown_, &Tick::clicked, this, [this](bool on) {
    apply(on ? tr("Fill down") : tr("Do not fill down"), [on](Recipe& r) { r.fillDown = on; });
  });
  column->addWidget(fillDown_);
}

namespace {

/// Deletes a field: masks that read it go, layers that are it are switched off.
void freeField(Recipe& r, const std::string& id) {
  const auto release = [&](FieldRecipe& f) {
    for (Layer& l : f.layers) {
      if (l.mask && l.mask->field == id) l.mask.reset();
      if (auto* source = std::get_if<acre::FieldSource>(&l.source); source && source->field == id) {
        l.source = acre::ConstantSource{0};
        l.on = false;
      }
    }
  };
  release(r.heights);
  for (FieldRecipe& f : r.fields) release(f);
  for (acre::ClimateAxis* axis : {&r.climate.temperature, &r.climate.moisture})
    release(axis->field);
  std::erase_if(r.fields, [&](const FieldRecipe& f) { return f.id == id; });
}

}  // namespace

/// Who reads a field that is to be deleted, and what is to become of them.
void HeightsEditor::buildUsers(QVBoxLayout* column) {
  users_ = new QWidget;
  auto* usersRow = new QVBoxLayout(users_);
  usersRow->setContentsMargins(0, 0, 0, 0);
  usersText_ = new QLabel;
  usersText_->setObjectName(QStringLiteral("heights.users"));
  usersText_->setWordWrap(true);
  usersRow->addWidget(usersText_);
  auto* answers = new QHBoxLayout;
  auto* freeThem = new QPushButton(tr("Delete and free them"));
  freeThem->setObjectName(QStringLiteral("heights.freeUsers"));
  freeThem->setToolTip(tr("Masks that read it go; layers that are it are switched off."));
  connect(freeThem, &QPushButton::clicked, this, [this] {
    const std::string id = field_;
    users_->hide();
    chooseField(acre::kHeightsId);
    apply(tr("Delete field"), [&](Recipe& r) { freeField(r, id); });
  });
  auto* keep = new QPushButton(tr("Keep it"));
  connect(keep, &QPushButton::clicked, users_, &QWidget::hide);
  answers->addWidget(freeThem);
  answers->addWidget(keep);
  answers->addStretch(1);
  usersRow->addLayout(answers);
  users_->hide();
  column->addWidget(users_);
}

void HeightsEditor::buildFault(QVBoxLayout* column) {
  faultRow_ = new QWidget;
  auto* faultLine = new QHBoxLayout(faultRow_);
  faultLine->setContentsMargins(0, 0, 0, 0);
  fault_ = new QLabel;
  fault_->setObjectName(QStringLiteral("heights.fault"));
  fault_->setWordWrap(true);
  mend_ = new QPushButton;
  mend_->setObjectName(QStringLiteral("heights.mend"));
  connect(mend_, &QPushButton::clicked, this, [this] {
    if (mendEdit_) apply(tr("Fix"), mendEdit_);
  });
  faultLine->addWidget(fault_, 1);
  faultLine->addWidget(mend_);
  faultRow_->hide();
  column->addWidget(faultRow_);
}

void HeightsEditor::buildHistogram(QVBoxLayout* column) {
  column->addWidget(ruleLine());
  histogram_ = new Histogram(document_);
  connect(histogram_, &Histogram::typeRequested, this,
      [this](int stake, const QString& begun) { stakeField_->type(stake, begun); });
  connect(histogram_, &Histogram::refused, this, &Editor::refused);
  column->addWidget(histogram_);
  stakeField_ = new StakeField(*histogram_);
  stakeField_->setObjectName(QStringLiteral("heights.stake"));
  connect(stakeField_, &StakeField::refused, this, &Editor::refused);
  column->addWidget(stakeField_);
  scope_ = caption({});
  column->addWidget(scope_);
}

HeightsEditor::~HeightsEditor() {
  courier_->close();
  stop_.request_stop();
}

const FieldRecipe* HeightsEditor::fieldRecipe() const {
  return acre::fieldOf(document_.recipe(), field_);
}

const Layer* HeightsEditor::layer() const {
  const FieldRecipe* f = fieldRecipe();
  if (!f) return nullptr;
  const auto found = std::find_if(
      f->layers.begin(), f->layers.end(), [&](const Layer& l) { return l.id == waves_->chosen(); });
  return found == f->layers.end() ? nullptr : &*found;
}

// ---- layers and fields -------------------------------------------------------------------------

void HeightsEditor::addLayer(acre::Source source, const QString& name) {
  const FieldRecipe* f = fieldRecipe();
  if (!f) return;
  if (auto* picture = std::get_if<acre::PictureSource>(&source); picture && picture->file.empty())
    return emit pictureRequested();
  if (auto* read = std::get_if<acre::FieldSource>(&source)) {
    for (const FieldRecipe& other : document_.recipe().fields)
      if (other.id != field_) read->field = other.id;
    if (read->field.empty())
      return emit refused(tr("There is no other field yet: make one with New field first."));
  }
  Layer layer;
  layer.id = acre::freshId("layer", idsOf(f->layers));
  layer.name = name.toStdString();
  layer.source = std::move(source);
  if (!acre::reshapes(layer.source) && !std::holds_alternative<acre::ConstantSource>(layer.source))
    layer.amplitude = field_ == acre::kHeightsId ? 10 : 1;
  const bool taken =
      apply(tr("Add layer"), [&](Recipe& r) { acre::fieldOf(r, field_)->layers.push_back(layer); });
  if (taken) waves_->choose(layer.id);
}

void HeightsEditor::addPicture(const QString& file) {
  acre::PictureSource source;
  source.file = file.toStdString();
  addLayer(source, tr("Picture"));
}

void HeightsEditor::duplicateLayer() {
  const Layer* l = layer();
  if (!l) return;
  Layer copy = *l;
  copy.id = acre::freshId("layer", idsOf(fieldRecipe()->layers));
  copy.name += " 2";
  const bool taken = apply(tr("Duplicate layer"), [&](Recipe& r) {
    auto& layers = acre::fieldOf(r, field_)->layers;
    const auto at = std::find_if(
        layers.begin(), layers.end(), [&](const Layer& x) { return x.id == waves_->chosen(); });
    layers.insert(at + 1, copy);
  });
  if (taken) waves_->choose(copy.id);
}

void HeightsEditor::deleteLayer(const std::string& id) {
  apply(tr("Delete layer"), [&](Recipe& r) {
    if (FieldRecipe* f = acre::fieldOf(r, field_))
      std::erase_if(f->layers, [&](const Layer& l) { return l.id == id; });
  });
}

void HeightsEditor::reorder(int by) {
  const FieldRecipe* f = fieldRecipe();
  const Layer* l = layer();
  if (!f || !l) return;
  const auto from = l - f->layers.data(), to = from + by;
  if (to < 0 || to >= static_cast<ptrdiff_t>(f->layers.size())) return;
  apply(by < 0 ? tr("Move layer up") : tr("Move layer down"), [&](Recipe& r) {
    auto& layers = acre::fieldOf(r, field_)->layers;
    std::swap(layers[static_cast<size_t>(from)], layers[static_cast<size_t>(to)]);
  });
}

void HeightsEditor::addField() {
  std::vector<std::string> ids;
  for (const FieldRecipe& f : document_.recipe().fields) ids.push_back(f.id);
  FieldRecipe field;
  field.id = acre::freshId("field", ids);
  field.name = "Field " + field.id.substr(6);
  Layer layer;
  layer.id = "layer-1";
  layer.name = "Gradient noise";
  NoiseSource noise;
  noise.width = 300;
  noise.octaves = 2;
  layer.source = noise;
  field.layers = {layer};
  if (apply(tr("New field"), [&](Recipe& r) { r.fields.push_back(field); })) chooseField(field.id);
}

void HeightsEditor::deleteField() {
  if (field_ == acre::kHeightsId) return;
  const auto users = acre::readersOf(document_.recipe(), field_);
  if (!users.empty()) {
    QStringList names;
    for (const std::string& user : users) names << QString::fromStdString(user);
    usersText_->setText(
        tr("%1 is read by %2. What should become of them?")
            .arg(QString::fromStdString(fieldRecipe()->name), names.join(QStringLiteral("; "))));
    users_->show();
    return;
  }
  const std::string id = field_;
  chooseField(acre::kHeightsId);
  apply(tr("Delete field"), [&](Recipe& r) {
    std::erase_if(r.fields, [&](const FieldRecipe& f) { return f.id == id; });
  });
}

void HeightsEditor::chooseField(const std::string& id) {
  if (id == field_) return;
  field_ = id;
  users_->hide();
  waves_->setField(id);
  refresh();
  emit fieldChanged();
}

void HeightsEditor::showPointer(const std::string& pointer) {
  const Recipe& recipe = document_.recipe();
  const auto showLayer = [&](const FieldRecipe& field, const std::string& prefix) {
    if (!pointer.starts_with(prefix)) return false;
    chooseField(field.id);
    for (size_t i = 0; i < field.layers.size(); ++i)
      if (pointer.starts_with(prefix + "/layers/" + std::to_string(i)))
        waves_->choose(field.layers[i].id);
    waves_->setFocus();
    return true;
  };
  for (const FieldRecipe* field : fieldsInScope())
    if ((pointer + "/").starts_with(acre::pointerOf(recipe, *field) + "/") &&
        showLayer(*field, acre::pointerOf(recipe, *field)))
      return;
}

// ---- following ---------------------------------------------------------------------------------

std::vector<const FieldRecipe*> HeightsEditor::fieldsInScope() const {
  const Recipe& recipe = document_.recipe();
  auto fields = acre::fieldsOf(recipe);
  std::erase_if(fields, [&](const FieldRecipe* f) {
    return (acre::climateAxisOf(recipe, f->id) != nullptr) != (scope_of_ == Scope::Climate);
  });
  return fields;
}

void HeightsEditor::refreshFields() {
  const QSignalBlocker quiet(fields_);
  fields_->clear();
  const Recipe& recipe = document_.recipe();
  for (const FieldRecipe* f : fieldsInScope()) {
    const QString name = QString::fromStdString(f->name);
    const bool further = f != &recipe.heights && scope_of_ == Scope::Heights;
    fields_->addItem(further ? tr("Field %1").arg(name) : name, QString::fromStdString(f->id));
  }
  fields_->setCurrentIndex(fields_->findData(QString::fromStdString(field_)));
  // The heights cannot read how high they are.
  altitudeOffer_->setVisible(field_ != acre::kHeightsId);
  waterOffer_->setVisible(field_ != acre::kHeightsId);
  // Nor can the climate, which comes before rivers.
  freshOffer_->setVisible(field_ != acre::kHeightsId && scope_of_ == Scope::Heights);
  fillDown_->setVisible(field_ == acre::kHeightsId && !document_.recipe().frame.blocks());
  fillDown_->setChecked(document_.recipe().fillDown);
  removeField_->setVisible(field_ != acre::kHeightsId && scope_of_ == Scope::Heights);
}

void HeightsEditor::setLine(const SectionLine& line) {
  waves_->setLine(line);
}

void HeightsEditor::refresh() {
  const auto fields = fieldsInScope();
  if (fields.empty()) return;  // A climate that is off.
  if (std::none_of(
          fields.begin(), fields.end(), [&](const FieldRecipe* f) { return f->id == field_; })) {
    field_ = fields.front()->id;
    waves_->setField(field_);
    emit fieldChanged();
  }
  refreshFields();
  waves_->refresh();
  histogram_->setStakesShown(field_ == acre::kHeightsId);
  if (shape() != built_) return rebuildNumbers();
  if (const Layer* l = layer(); l && curve_) curve_->setCurve(l->curve);
  refreshControls();
  refreshFigures();
}

QString HeightsEditor::figures() const {
  const auto* f = statistics_.figures(field_);
  if (!f) return {};
  const acre::ClimateAxis* axis = acre::climateAxisOf(document_.recipe(), field_);
  const auto told = [&](double v) { return look::figure(axis ? axis->told(v) : v); };
  const QString unit = axis && !axis->unit.empty()
                           ? QStringLiteral(" ") + QString::fromStdString(axis->unit)
                           : QString();
  return tr("range %1…%2%3 · %4 ns/cell")
      .arg(told(f->low), told(f->high), unit)
      .arg(f->nanosPerCell, 0, 'f', f->nanosPerCell < 10 ? 1 : 0);
}

void HeightsEditor::refreshFigures() {
  histogram_->setDistribution(statistics_.distribution(field_), statistics_.scope());
  QString below;
  if (const auto* f = statistics_.figures(field_))
    below = tr("Range %1 … %2, mean %3, steps over one cell %4 · ")
                .arg(look::figure(f->low), look::figure(f->high), look::figure(f->mean),
                    look::percent(f->rough));
  scope_->setText(below + tr("shares %1").arg(statistics_.scope()));
  scope_->setWordWrap(true);
  scope_->setToolTip(tr(
      "Steps over one cell: of all neighbouring columns, how many differ by more than one whole\n"
      "cell after flooring. They would leave holes in a world of blocks."));

  std::vector<std::pair<std::string, QString>> faults;
  const acre::Check* chosen = nullptr;
  const FieldRecipe* field = fieldRecipe();
  for (const acre::Check& check : statistics_.checks()) {
    if (!field) continue;
    const bool mine = std::any_of(field->layers.begin(), field->layers.end(),
        [&](const Layer& l) { return l.id == check.subject; });
    const std::string prefix = acre::pointerOf(document_.recipe(), *field);
    if (!mine || !(check.pointer + "/").starts_with(prefix + "/")) continue;
    faults.emplace_back(check.subject, QString::fromStdString(check.sentence));
    if (check.subject == waves_->chosen() && !chosen) chosen = &check;
  }
  waves_->setFaults(faults);
  faultRow_->setVisible(chosen != nullptr);
  if (chosen) {
    QString sentence = QString::fromStdString(chosen->sentence);
    fault_->setText(sentence);
    mend_->setText(tr("Fix: %1").arg(QString::fromStdString(chosen->mend)));
    mend_->setVisible(static_cast<bool>(chosen->apply));
    mendEdit_ = chosen->apply;
  }

  const Layer* l = layer();
  if (!l || !layerFigures_) return;
  const auto* f = statistics_.figures(field_, l->id);
  if (!l->on) {
    layerFigures_->setText(tr("Off: takes no part."));
    layerBins_->clear();
  } else if (f) {
    QStringList widths;
    for (const acre::OctaveFigure& o : f->octaves)
      widths << look::figure(o.width) + (o.narrow ? QStringLiteral(" (static)") : QString());
    QString text = tr("%1 … %2, mean %3, %4 ns/cell")
                       .arg(look::figure(f->low), look::figure(f->high), look::figure(f->mean))
                       .arg(f->nanosPerCell, 0, 'f', 1);
    if (!widths.isEmpty()) text += tr("\nwidths %1").arg(widths.join(QStringLiteral(", ")));
    text += tr("\nsteps over one cell %1").arg(look::percent(f->rough));
    layerFigures_->setText(text);
    layerBins_->setPixmap(drawnBins(f->histogram, layerBins_->size(), devicePixelRatioF()));
    if (curve_) {
      // The histogram is of what comes out; what goes in is only known where nothing bends it.
      curve_->setInput(l->curve.front().x, l->curve.back().x, {});
      if (l->equalise) curve_->setInput(0, 1, std::vector<uint32_t>(8, 1));
    }
  }
  if (geometry_.size.isEmpty() || !l->on) return;
  pictureStop_.request_stop();
  pictureStop_ = {};
  document_.engine().executor().submit(acre::Priority::Thumbnail, pictureStop_.get_token(),
      [courier = courier_, world = document_.world(), geometry = geometry_, field = field_,
          id = l->id, stop = pictureStop_.get_token()] {
        const acre::Picture picture{acre::PictureKind::Layer, field, id};
        QImage image = fromAbove(*world, picture, geometry);
        courier->deliver([stop, image](HeightsEditor& self) {
          if (!stop.stop_requested() && self.layerPicture_)
            self.layerPicture_->setPixmap(QPixmap::fromImage(image));
        });
      });
}

/// The field that is shown, or what the heights make in the end.
void HeightsEditor::setView(const MapGeometry& view) {
  Editor::setView(view);
  geometry_ = view;
  previews_->setPicture([field = field_](const acre::World& world, const MapGeometry& at) {
    return fromAbove(world,
        field == acre::kHeightsId ? acre::Picture{}
                                  : acre::Picture{acre::PictureKind::Field, field, {}},
        at);
  });
}

}  // namespace app

#include "moc_heights_editor.cpp"
