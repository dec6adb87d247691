#include "app/edit/strata_editor.h"

#include <QColorDialog>
#include <QGridLayout>
#include <QPainter>
#include <QPushButton>
#include <QSignalBlocker>
#include <algorithm>
#include <cmath>
#include <limits>
#include <utility>

#include "app/edit/lists.h"
#include "app/look/look.h"
#include "climate/biomes.h"
#include "output/picture.h"
#include "strata/bands.h"

namespace app {
namespace {

using acre::Band;
using acre::Material;
using acre::Recipe;

QColor toQColor(const acre::Colour& c) {
  return {c.red, c.green, c.blue};
}

/// A swatch of a material, or of the hatch.
QIcon swatch(const Material* material) {
  QPixmap pixmap(14, 14);
  QPainter p(&pixmap);
  p.fillRect(pixmap.rect(), material ? QBrush(toQColor(material->colour)) : QBrush(look::hatch()));
  p.setPen(look::tokens().edge);
  p.drawRect(0, 0, 13, 13);
  return pixmap;
}

}  // namespace

// ---- the editor --------------------------------------------------------------------------------

StrataEditor::StrataEditor(Document& document, Statistics& statistics, QWidget* parent)
    : Editor(document, parent), statistics_(statistics) {
  column_ = new QVBoxLayout(this);
  column_->setContentsMargins(16, 12, 16, 12);
  column_->setSpacing(look::kSpace);
  auto* scopeRow = new QHBoxLayout;
  scopeRow->addWidget(caption(tr("bands of")));
  of_ = new Choice;
  of_->setObjectName(QStringLiteral("strata.of"));
  of_->setAccessibleName(tr("Whose bands"));
  of_->setToolTip(tr("The general bands, or those of a biome that has its own."));
  connect(of_, &Choice::activated, this,
      [this] { showBandsOf(of_->currentData().toString().toStdString()); });
  scopeRow->addWidget(of_, 1);
  ofRow_ = new QWidget;
  ofRow_->setLayout(scopeRow);
  scopeRow->setContentsMargins(0, 0, 0, 0);
  column_->addWidget(ofRow_);
  histogram_ = new Histogram(document_);
  histogram_->setObjectName(QStringLiteral("strata.histogram"));
  connect(histogram_, &Histogram::refused, this, &Editor::refused);
  stakeField_ = new StakeField(*histogram_);
  stakeField_->setObjectName(QStringLiteral("strata.stake"));
  connect(stakeField_, &StakeField::refused, this, &Editor::refused);
  connect(histogram_, &Histogram::typeRequested, this,
      [this](int stake, const QString& begun) { stakeField_->type(stake, begun); });
  scope_ = caption({});
  scope_->setObjectName(QStringLiteral("strata.scope"));
  column_->addWidget(histogram_);
  column_->addWidget(stakeField_);
  column_->addWidget(scope_);
  ground_ = new GroundPanel(document_, statistics_);
  connect(ground_, &Editor::refused, this, &Editor::refused);
  connect(ground_, &Editor::leaveRequested, this, &Editor::leaveRequested);
  connect(&statistics_, &Statistics::changed, this, &StrataEditor::refreshShares);
  connect(&statistics_, &Statistics::changed, ground_, &GroundPanel::refreshFound);
  rebuild();
}

void StrataEditor::rebuild() {
  bands_.clear();
  slopes_.clear();
  materials_.clear();
  QVBoxLayout* column = newBody(column_, 0);
  const Recipe& recipe = document_.recipe();
  auto* captions = new QHBoxLayout;
  captions->addWidget(heading(tr("Bands, high to low")), 1);
  captions->addWidget(caption(tr("below")));
  captions->addSpacing(62);
  captions->addWidget(caption(tr("share")));
  captions->addSpacing(30);
  column->addLayout(captions);
  if (bandsIn(recipe).empty())
    column->addWidget(new QLabel(tr("No band yet: every cell is unassigned. Add one.")));
  for (size_t i = bandsIn(recipe).size(); i-- > 0;)
    addBandRow(column, bandsIn(recipe)[i], i + 1 == bandsIn(recipe).size());
  auto* add = new QPushButton(tr("Add band"));
  add->setObjectName(QStringLiteral("strata.addBand"));
  add->setToolTip(tr("A band on top of the others."));
  connect(add, &QPushButton::clicked, this, [this] {
    apply(tr("Add band"), [this](Recipe& r) {
      Band band{acre::freshId("band", idsOf(bandsIn(r))), {}, acre::kUnassignedId};
      if (!r.materials.empty()) band.material = r.materials.back().id;
      if (bandsIn(r).size() == 1) bandsIn(r).back().below = acre::Threshold{0, true, {}};
      if (bandsIn(r).size() > 1) {
        acre::Threshold end = *bandsIn(r)[bandsIn(r).size() - 2].below;
        end.value = end.share ? 0 : end.value + 5;
        end.share.reset();
        bandsIn(r).back().below = end;
      }
      bandsIn(r).push_back(band);
    });
  });
  auto* row = new QHBoxLayout;
  row->addWidget(add);
  row->addStretch(1);
  column->addLayout(row);

  column->addSpacing(8);
  column->addWidget(ruleLine());
  column->addWidget(heading(tr("Steep ground, before all bands")));
  for (const acre::SlopeBand& slope : recipe.slopes) addSlopeRow(column, slope);
  auto* addSlope = new QPushButton(tr("Add slope"));
  addSlope->setObjectName(QStringLiteral("strata.addSlope"));
  addSlope->setToolTip(tr("Ground steeper than a limit gets a material of its own."));
  connect(addSlope, &QPushButton::clicked, this, [this] {
    apply(tr("Add slope"), [](Recipe& r) {
      acre::SlopeBand slope;
      slope.id = acre::freshId("slope", idsOf(r.slopes));
      slope.from = 0.5;
      slope.above = acre::Threshold{0, true, {}};
      slope.material = r.materials.empty() ? acre::kUnassignedId : r.materials.back().id;
      r.slopes.push_back(slope);
    });
  });
  auto* slopeRow = new QHBoxLayout;
  slopeRow->addWidget(addSlope);
  slopeRow->addStretch(1);
  column->addLayout(slopeRow);

  column->addSpacing(8);
  column->addWidget(ruleLine());
  column->addWidget(heading(tr("Materials")));
  for (const Material& material : recipe.materials) addMaterialRow(column, material);
  auto* addMaterial = new QPushButton(tr("Add material"));
  addMaterial->setObjectName(QStringLiteral("strata.addMaterial"));
  connect(addMaterial, &QPushButton::clicked, this, [this] {
    apply(tr("Add material"), [](Recipe& r) {
      const std::string id = acre::freshId("material", idsOf(r.materials));
      r.materials.push_back({id, "New material", {0x5C, 0x71, 0x42}, acre::MaterialState::Solid});
    });
  });
  auto* row2 = new QHBoxLayout;
  row2->addWidget(addMaterial);
  row2->addStretch(1);
  column->addLayout(row2);
  column->addStretch(1);
  column_->removeWidget(ground_);
  column_->addWidget(ground_);
  column_->setStretchFactor(ground_, 1);
  refresh();
}

void StrataEditor::addBandRow(QVBoxLayout* column, const Band& band, bool last) {
  const std::string id = band.id;
  const QString key = QStringLiteral("band.") + QString::fromStdString(id);
  BandRow row;
  row.id = id;
  row.last = last;
  row.material = new Choice;
  row.material->setObjectName(key + QStringLiteral(".material"));
  row.material->setAccessibleName(tr("Material of the band"));
  row.material->setMinimumWidth(100);
  row.material->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
  row.material->setMinimumContentsLength(6);
  connect(row.material, &Choice::activated, this, [this, id, box = row.material] {
    const std::string material = box->currentData().toString().toStdString();
    apply(
        tr("Material of a band"), [&](Recipe& r) { withId(bandsIn(r), id)->material = material; });
  });
  row.share = new QLabel;
  row.share->setObjectName(key + QStringLiteral(".share"));
  row.share->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
  row.share->setFixedWidth(50);
  row.share->setToolTip(tr("Share of the world that this band covers."));

  auto* line = new QHBoxLayout;
  line->setSpacing(5);
  line->addWidget(row.material, 1);
  row.fromSea = nullptr;
  row.below = nullptr;
  row.edge = nullptr;
  row.hold = nullptr;
  row.width = nullptr;
  row.feature = nullptr;
  if (last) {
    auto* rest = caption(tr("all above"));
    line->addWidget(rest);
    line->addSpacing(4);
  } else {
    row.fromSea = new Tick(tr("sea"));
    row.fromSea->setObjectName(key + QStringLiteral(".fromSea"));
    row.fromSea->setToolTip(
        tr("On: measured from the sea level, and moves with it. Off: an altitude."));
    connect(row.fromSea, &Tick::toggled, this, [this, id](bool on) {
      document_.finish();  // For its sea level.
      apply(on ? tr("Measure from the sea") : tr("Measure as altitude"), [&](Recipe& r) {
        auto& below = withId(bandsIn(r), id)->below;
        if (!below || below->fromSea == on) return;
        // The place stays, only what it is measured from changes.
        const double sea = planOf(*document_.world()).seaLevel();
        below->value += on ? -sea : sea;
        below->fromSea = on;
      });
    });
    line->addWidget(row.fromSea);
    auto* field = bindNumber({acre::limits::altitude, 0.5, false, false, {}}, key + ".below",
        tr("Upper end of the band"),
        {[this, id](const Recipe& r) -> std::optional<double> {
           const Band* b = withId(bandsIn(r), id);
           return b && b->below ? std::optional(b->below->value) : std::nullopt;
         },
            [this, id](Recipe& r, double v) {
              Band* b = withId(bandsIn(r), id);
              if (b && b->below) b->below->value = v;
            }},
        tr("Heights below this belong to the band, those at it and above to the next one."));
    field->setFixedWidth(70);
    row.below = field;
    line->addWidget(field);
  }
  line->addWidget(row.share);
  auto* remove = new QToolButton;
  remove->setText(QStringLiteral("×"));
  remove->setProperty("role", "small");
  remove->setObjectName(key + QStringLiteral(".delete"));
  remove->setToolTip(tr("Delete this band; the one above it takes its heights."));
  remove->setAccessibleName(tr("Delete band"));
  connect(remove, &QToolButton::clicked, this, [this, id] {
    apply(tr("Delete band"), [&](Recipe& r) {
      std::erase_if(bandsIn(r), [&](const Band& b) { return b.id == id; });
      if (!bandsIn(r).empty()) bandsIn(r).back().below.reset();
    });
  });
  line->addWidget(remove);
  column->addLayout(line);
  if (!last) {
    auto* second = new QHBoxLayout;
    second->setSpacing(5);
    second->addSpacing(14);
    row.hold = new Choice;
    row.hold->setObjectName(key + QStringLiteral(".hold"));
    row.hold->addItems({tr("holds value"), tr("holds share")});
    row.hold->setFixedWidth(98);
    row.hold->setToolTip(
        tr("Value: the altitude stays, the share follows the seed.\n"
           "Share: so much of the world stays below, the altitude follows."));
    connect(row.hold, &Choice::activated, this, [this, id](int index) {
      const auto& stakes = histogram_->stakes();
      for (size_t i = 0; i < stakes.size(); ++i)
        if (stakes[i].id == id && stakes[i].band >= 0)
          return histogram_->hold(static_cast<int>(i), index == 1);
    });
    row.edge = new Choice;
    row.edge->setObjectName(key + QStringLiteral(".edge"));
    row.edge->addItems(
        {tr("hard edge"), tr("dithered"), tr("dithered, squared"), tr("noisy edge")});
    row.edge->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    row.edge->setMinimumContentsLength(6);
    row.edge->setToolTip(
        tr("Dithered: cell by cell, the odds rising over the width, straight or with the square.\n"
           "Noisy: the threshold wanders by half the width to either side."));
    connect(row.edge, &Choice::activated, this, [this, id](int index) {
      apply(tr("Edge of a band"), [&](Recipe& r) {
        acre::Edge& edge = withId(bandsIn(r), id)->edge;
        edge.kind = index == 0   ? acre::Edge::Kind::Hard
                    : index == 3 ? acre::Edge::Kind::Noisy
                                 : acre::Edge::Kind::Dithered;
        edge.squared = index == 2;
      });
    });
    const Place<acre::Edge> edge = [this, id](Recipe& r) {
      Band* b = withId(bandsIn(r), id);
      return b ? &b->edge : nullptr;
    };
    const auto number = [&](const char* name, double acre::Edge::*member) {
      const Number one = declared<acre::Edge>(band.edge, edge, member);
      auto* field = bindNumber(one.spec, key + QLatin1String(name),
          tr("%1 of the edge").arg(one.title), one.access, one.tip);
      field->setFixedWidth(52);
      return field;
    };
    row.width = number(".edgeWidth", &acre::Edge::width);
    row.feature = number(".edgeFeature", &acre::Edge::feature);
    second->addWidget(row.hold);
    second->addWidget(row.edge, 1);
    second->addWidget(row.width);
    second->addWidget(row.feature);
    second->addSpacing(24);
    column->addLayout(second);
  }
  bands_.push_back(row);
}

void StrataEditor::fillMaterials(Choice* choice, const std::string& current) const {
  const QSignalBlocker quiet(choice);
  if (listed_ != document_.recipe().materials || choice->count() == 0) {
    choice->clear();
    choice->addItem(swatch(nullptr), tr("unassigned"), QString::fromLatin1(acre::kUnassignedId));
    for (const Material& m : document_.recipe().materials)
      choice->addItem(swatch(&m), QString::fromStdString(m.name), QString::fromStdString(m.id));
  }
  choice->setCurrentIndex(choice->findData(QString::fromStdString(current)));
}

void StrataEditor::addSlopeRow(QVBoxLayout* column, const acre::SlopeBand& slope) {
  const std::string id = slope.id;
  const QString key = QStringLiteral("slope.") + QString::fromStdString(id);
  SlopeRow row{id, new Choice};
  row.material->setObjectName(key + QStringLiteral(".material"));
  row.material->setAccessibleName(tr("Material of steep ground"));
  row.material->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
  row.material->setMinimumContentsLength(6);
  connect(row.material, &Choice::activated, this, [this, id, box = row.material] {
    const std::string material = box->currentData().toString().toStdString();
    apply(tr("Material of a slope"), [&](Recipe& r) { withId(r.slopes, id)->material = material; });
  });
  auto* line = new QHBoxLayout;
  line->setSpacing(5);
  line->addWidget(row.material, 1);
  line->addWidget(caption(tr("steeper")));
  auto* from = bindNumber(key, tr("a slope band"),
      declared<acre::SlopeBand>(
          slope, [id](Recipe& r) { return withId(r.slopes, id); }, &acre::SlopeBand::from));
  from->setFixedWidth(52);
  line->addWidget(from);
  line->addWidget(caption(tr("from sea +")));
  auto* above = bindNumber({acre::limits::altitude, 0.5, false, false, {}}, key + ".above",
      tr("Lower end of the slope band"),
      {[id](const Recipe& r) -> std::optional<double> {
         const auto* s = withId(r.slopes, id);
         return s && s->above ? std::optional(s->above->value) : std::nullopt;
       },
          [id](Recipe& r, double v) {
            withId(r.slopes, id)->above = acre::Threshold{v, true, {}};
          }},
      tr("Lower ground keeps its band, however steep."));
  above->setFixedWidth(52);
  line->addWidget(above);
  auto* remove = new QToolButton;
  remove->setText(QStringLiteral("×"));
  remove->setProperty("role", "small");
  remove->setObjectName(key + QStringLiteral(".delete"));
  remove->setAccessibleName(tr("Delete slope"));
  connect(remove, &QToolButton::clicked, this, [this, id] {
    apply(tr("Delete slope"), [&](Recipe& r) {
      std::erase_if(r.slopes, [&](const acre::SlopeBand& s) { return s.id == id; });
    });
  });
  line->addWidget(remove);
  column->addLayout(line);
  slopes_.push_back(row);
}

void StrataEditor::addMaterialRow(QVBoxLayout* column, const Material& material) {
  const std::string id = material.id;
  const QString key = QStringLiteral("material.") + QString::fromStdString(id);
  MaterialRow row;
  row.id = id;
  row.colour = new QToolButton;
  row.colour->setObjectName(key + QStringLiteral(".colour"));
  row.colour->setToolTip(tr("Colour on the map"));
  row.colour->setAccessibleName(tr("Colour"));
  connect(row.colour, &QToolButton::clicked, this, [this, id] {
    const Material* m = withId(document_.recipe().materials, id);
    if (!m) return;
    const QColor chosen = QColorDialog::getColor(
        toQColor(m->colour), this, tr("Colour of %1").arg(QString::fromStdString(m->name)));
    if (!chosen.isValid()) return;
    apply(tr("Colour of a material"), [&](Recipe& r) {
      withId(r.materials, id)->colour = {static_cast<uint8_t>(chosen.red()),
          static_cast<uint8_t>(chosen.green()), static_cast<uint8_t>(chosen.blue())};
    });
  });
  row.name = new QLineEdit;
  row.name->setObjectName(key + QStringLiteral(".name"));
  row.name->setAccessibleName(tr("Name of the material"));
  row.name->setMaxLength(100);
  connect(row.name, &QLineEdit::editingFinished, this, [this, id, field = row.name] {
    const std::string text = field->text().toStdString();
    const Material* m = withId(document_.recipe().materials, id);
    if (m && m->name != text)
      apply(tr("Rename material"), [&](Recipe& r) { withId(r.materials, id)->name = text; });
  });
  row.state = new Choice;
  row.state->addItems({tr("solid"), tr("passable"), tr("liquid")});
  row.state->setObjectName(key + QStringLiteral(".state"));
  row.state->setAccessibleName(tr("State"));
  connect(row.state, &Choice::activated, this, [this, id](int index) {
    apply(tr("State of a material"), [&](Recipe& r) {
      withId(r.materials, id)->state = static_cast<acre::MaterialState>(index);
    });
  });
  row.remove = new QToolButton;
  row.remove->setText(QStringLiteral("×"));
  row.remove->setProperty("role", "small");
  row.remove->setObjectName(key + QStringLiteral(".delete"));
  row.remove->setAccessibleName(tr("Delete material"));
  connect(row.remove, &QToolButton::clicked, this, [this, id] {
    apply(tr("Delete material"), [&](Recipe& r) {
      std::erase_if(r.materials, [&](const Material& m) { return m.id == id; });
    });
  });
  auto* line = new QHBoxLayout;
  line->setSpacing(5);
  line->addWidget(row.colour);
  line->addWidget(row.name, 1);
  line->addWidget(row.state);
  line->addWidget(row.remove);
  column->addLayout(line);
  materials_.push_back(row);
}

const std::vector<Band>& StrataEditor::bandsIn(const Recipe& recipe) const {
  const acre::Biome* biome = acre::biomeOf(recipe, biome_);
  return biome && biome->bands ? *biome->bands : recipe.bands;
}
std::vector<Band>& StrataEditor::bandsIn(Recipe& recipe) const {
  return const_cast<std::vector<Band>&>(bandsIn(std::as_const(recipe)));
}

void StrataEditor::showBandsOf(const std::string& biome) {
  biome_ = biome;
  refresh();
}

void StrataEditor::refreshScope() {
  const Recipe& recipe = document_.recipe();
  const acre::Biome* shown = acre::biomeOf(recipe, biome_);
  if (!recipe.biomes.on || !shown || !shown->bands) biome_.clear();
  const QSignalBlocker quiet(of_);
  of_->clear();
  of_->addItem(tr("all the world, in general"), QString());
  for (const acre::Biome& b : recipe.biomes.list)
    if (recipe.biomes.on && b.bands)
      of_->addItem(QString::fromStdString(b.name), QString::fromStdString(b.id));
  of_->setCurrentIndex(of_->findData(QString::fromStdString(biome_)));
  ofRow_->setVisible(of_->count() > 1);
  histogram_->setStakesShown(biome_.empty());
}

void StrataEditor::refresh() {
  ground_->refresh();
  refreshScope();
  const Recipe& recipe = document_.recipe();
  // Rows stand from high to low; a change of who uses what changes the delete buttons as well.
  const bool sameBands =
      std::equal(bandsIn(recipe).rbegin(), bandsIn(recipe).rend(), bands_.begin(), bands_.end(),
          [](const Band& b, const BandRow& row) { return b.id == row.id && row.last == !b.below; });
  const bool sameMaterials = std::equal(recipe.materials.begin(), recipe.materials.end(),
      materials_.begin(), materials_.end(),
      [](const Material& m, const MaterialRow& row) { return m.id == row.id; });
  const bool sameSlopes = std::equal(recipe.slopes.begin(), recipe.slopes.end(), slopes_.begin(),
      slopes_.end(), [](const acre::SlopeBand& s, const SlopeRow& row) { return s.id == row.id; });
  if (!sameBands || !sameMaterials || !sameSlopes) return rebuild();
  for (const SlopeRow& row : slopes_)
    fillMaterials(row.material, withId(recipe.slopes, row.id)->material);
  for (const BandRow& row : bands_) {
    const Band* band = withId(bandsIn(recipe), row.id);
    fillMaterials(row.material, band->material);
    if (!row.fromSea) continue;
    const QSignalBlocker quiet2(row.fromSea);
    row.fromSea->setChecked(band->below->fromSea);
    const bool share = band->below->share.has_value();
    row.fromSea->setEnabled(!share);
    row.below->setEnabled(!share);
    row.hold->setCurrentIndex(share ? 1 : 0);
    row.hold->setVisible(biome_.empty());
    const acre::Edge& edge = band->edge;
    row.edge->setCurrentIndex(edge.kind == acre::Edge::Kind::Hard    ? 0
                              : edge.kind == acre::Edge::Kind::Noisy ? 3
                              : edge.squared                         ? 2
                                                                     : 1);
    row.width->setVisible(edge.kind != acre::Edge::Kind::Hard);
    row.feature->setVisible(edge.kind == acre::Edge::Kind::Noisy);
  }
  listed_ = recipe.materials;
  for (const MaterialRow& row : materials_) {
    const Material* m = withId(recipe.materials, row.id);
    row.colour->setIcon(swatch(m));
    if (!row.name->hasFocus()) row.name->setText(QString::fromStdString(m->name));
    row.state->setCurrentIndex(static_cast<int>(m->state));
    const auto usersIn = [&](const auto& list) {
      return std::count_if(
          list.begin(), list.end(), [&](const auto& b) { return b.material == row.id; });
    };
    auto users = usersIn(recipe.bands) + usersIn(recipe.slopes);
    for (const acre::Biome& biome : recipe.biomes.list)
      if (biome.bands) users += usersIn(*biome.bands);
    row.remove->setEnabled(users == 0);
    row.remove->setToolTip(
        users == 0   ? tr("Delete this material.")
        : users == 1 ? tr("One rule uses this material; give it another first.")
                     : tr("%1 rules use this material; give them another first.").arg(users));
  }
  refreshNumbers();
  refreshShares();
}

void StrataEditor::showPointer(const std::string& pointer) {
  const Recipe& recipe = document_.recipe();
  std::string prefix = "/strata/bands/";
  showBandsOf({});
  for (size_t i = 0; i < recipe.biomes.list.size(); ++i) {
    const std::string own = "/biomes/list/" + std::to_string(i) + "/bands/";
    if (!pointer.starts_with(own)) continue;
    prefix = own;
    showBandsOf(recipe.biomes.list[i].id);
  }
  for (size_t b = 0; b < bandsIn(recipe).size(); ++b) {
    if (!(pointer + "/").starts_with(prefix + std::to_string(b) + "/")) continue;
    for (const BandRow& row : bands_)
      if (row.id == bandsIn(recipe)[b].id)
        (row.below && row.below->isEnabled() ? static_cast<QWidget*>(row.below) : row.material)
            ->setFocus(Qt::OtherFocusReason);
  }
  for (size_t i = 0; i < recipe.slopes.size(); ++i)
    if ((pointer + "/").starts_with("/strata/slopes/" + std::to_string(i) + "/"))
      if (auto* field = findChild<NumberField*>(
              QStringLiteral("slope.%1.from").arg(QString::fromStdString(recipe.slopes[i].id))))
        field->setFocus(Qt::OtherFocusReason);
}

void StrataEditor::refreshShares() {
  const auto sample = statistics_.distribution();
  histogram_->setDistribution(sample, statistics_.scope());
  if (!sample) return;
  const Recipe& recipe = document_.recipe();
  if (!biome_.empty()) {
    scope_->setText(tr("Base heights of the world; these bands are of one biome alone."));
    for (const BandRow& row : bands_) {
      row.share->clear();
      row.share->setToolTip(tr("What a biome covers stands in the census."));
    }
    return;
  }
  const acre::BiomeStage* stage = planOf(*document_.world()).biomes();
  scope_->setText(
      (stage && stage->shapesHeight() ? tr("Shares of base heights %1") : tr("Shares %1"))
          .arg(statistics_.scope()));
  scope_->setWordWrap(true);
  const auto& ends = planOf(*document_.world()).bands().ends();
  for (size_t b = 0; b < bandsIn(recipe).size(); ++b) {
    const Band& band = bandsIn(recipe)[b];
    const float from =
        b == 0 || b > ends.size() ? -std::numeric_limits<float>::infinity() : ends[b - 1];
    const float to = b < ends.size() ? ends[b] : std::numeric_limits<float>::infinity();
    const double share = sample->shareBetween(from, to);
    const Material* m = withId(recipe.materials, band.material);
    const QString name = m ? QString::fromStdString(m->name) : tr("unassigned");
    const QString end =
        band.below ? tr("below %1 = ").arg(QString::fromStdString(acre::thresholdText(*band.below)))
                   : tr("all above = ");
    for (const BandRow& row : bands_) {
      if (row.id != band.id) continue;
      row.share->setText(share == 0 ? tr("never") : look::percent(share));
      row.share->setAccessibleName(end + name + QStringLiteral(", ") + look::percent(share));
      row.share->setToolTip(end + name + QStringLiteral(", ") + look::percent(share) +
                            QStringLiteral(" ") + statistics_.scope());
    }
  }
}

}  // namespace app
