#include "app/edit/strata_editor.h"

#include <QSignalBlocker>
#include <algorithm>
#include <cmath>
#include <limits>
#include <utility>

#include "app/edit/lists.h"
#include "app/edit/shape.h"
#include "app/look/look.h"
#include "climate/biomes.h"
#include "strata/bands.h"

namespace app {
namespace {

using acre::Band;
using acre::Material;
using acre::Recipe;

/// How a band's edge is told: its kinds, the dithered one straight or squared.
int edgeOf(const acre::Edge& edge) {
  return edge.kind == acre::Edge::Kind::Hard    ? 0
         : edge.kind == acre::Edge::Kind::Noisy ? 3
         : edge.squared                         ? 2
                                                : 1;
}

void setEdge(acre::Edge& edge, int told) {
  edge.kind = told == 0   ? acre::Edge::Kind::Hard
              : told == 3 ? acre::Edge::Kind::Noisy
                          : acre::Edge::Kind::Dithered;
  edge.squared = told == 2;
}

/// Rules that use a material.
qsizetype usersOf(const Recipe& recipe, const std::string& material) {
  const auto usersIn = [&](const auto& list) {
    return std::count_if(
        list.begin(), list.end(), [&](const auto& b) { return b.material == material; });
  };
  auto users = usersIn(recipe.bands) + usersIn(recipe.slopes);
  for (const acre::Biome& biome : recipe.biomes.list)
    if (biome.bands) users += usersIn(*biome.bands);
  return users;
}

constexpr int kSmall = 52;

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
  refresh();
}

void StrataEditor::rebuild() {
  shares_.clear();
  QVBoxLayout* column = newBody(column_, 0);
  const Recipe& recipe = document_.recipe();
  Row captions(column);
  captions.add(heading(tr("Bands, high to low")), 1).words(tr("below")).space(62);
  captions.words(tr("share")).space(30);
  if (bandsIn(recipe).empty())
    column->addWidget(new QLabel(tr("No band yet: every cell is unassigned. Add one.")));
  for (size_t i = bandsIn(recipe).size(); i-- > 0;) addBandRow(column, bandsIn(recipe)[i]);
  const auto addBand = [this](Recipe& r) {
    auto& bands = bandsIn(r);
    Band band{acre::freshId("band", idsOf(bands)), {}, acre::kUnassignedId};
    if (!r.materials.empty()) band.material = r.materials.back().id;
    if (bands.size() == 1) bands.back().below = acre::Threshold{0, true, {}};
    if (bands.size() > 1) {
      acre::Threshold end = *bands[bands.size() - 2].below;
      end.value = end.share ? 0 : end.value + 5;
      end.share.reset();
      bands.back().below = end;
    }
    bands.push_back(band);
  };
  Row(column)
      .add(button(tr("Add band"), QStringLiteral("strata.addBand"),
          tr("A band on top of the others."), addBand))
      .rest();

  section(column, tr("Steep ground, before all bands"));
  for (const acre::SlopeBand& slope : recipe.slopes) addSlopeRow(column, slope);
  const auto addSlope = [](Recipe& r) {
    acre::SlopeBand slope;
    slope.id = acre::freshId("slope", idsOf(r.slopes));
    slope.from = 0.5;
    slope.above = acre::Threshold{0, true, {}};
    slope.material = r.materials.empty() ? acre::kUnassignedId : r.materials.back().id;
    r.slopes.push_back(slope);
  };
  Row(column)
      .add(button(tr("Add slope"), QStringLiteral("strata.addSlope"),
          tr("Ground steeper than a limit gets a material of its own."), addSlope))
      .rest();

  listSection(column, tr("Materials"), "/materials");
  for (const Material& material : recipe.materials) addMaterialRow(column, material);
  const auto addMaterial = [](Recipe& r) {
    const std::string id = acre::freshId("material", idsOf(r.materials));
    r.materials.push_back({id, "New material", {0x5C, 0x71, 0x42}, acre::MaterialState::Solid});
  };
  Row(column)
      .add(button(tr("Add material"), QStringLiteral("strata.addMaterial"), {}, addMaterial))
      .rest();
  column->addStretch(1);
  column_->removeWidget(ground_);
  column_->addWidget(ground_);
  column_->setStretchFactor(ground_, 1);
}

void StrataEditor::addBandRow(QVBoxLayout* column, const Band& band) {
  const std::string id = band.id;
  const auto made = form<Band>(
      band, [this, id](Recipe& r) { return withId(bandsIn(r), id); },
      QStringLiteral("band.") + QString::fromStdString(id), tr("a band"));
  auto* share = new QLabel;
  share->setObjectName(made.named("share"));
  share->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
  share->setFixedWidth(50);
  share->setToolTip(tr("Share of the world that this band covers."));
  shares_[id] = share;
  Row line(column);
  line.add(inked(made.material(&Band::material, {{tr("unassigned"), acre::kUnassignedId}})), 1);
  if (band.below)
    addEnd(line, made, *band.below);
  else
    line.words(tr("all above")).space(4);
  auto* remove = deleteButton(made.named("delete"), tr("Delete band"), [this, id](Recipe& r) {
    std::erase_if(bandsIn(r), [&](const Band& b) { return b.id == id; });
    if (!bandsIn(r).empty()) bandsIn(r).back().below.reset();
  });
  remove->setToolTip(tr("Delete this band; the one above it takes its heights."));
  line.add(share).add(remove);
  if (!band.below) return;
  Row second(column);
  second.space(14);
  if (biome_.empty()) second.add(holdChoice(made, id));
  const auto edge = made.template within<acre::Edge>(band.edge, [](Band& b) { return &b.edge; });
  auto* kind = edge.choice("edge", tr("Edge of a band"),
      tr("Dithered: cell by cell, the odds rising over the width, straight or with the square.\n"
         "Noisy: the threshold wanders by half the width to either side."),
      {tr("hard edge"), tr("dithered"), tr("dithered, squared"), tr("noisy edge")}, edgeOf,
      setEdge);
  second.add(kind, 1);
  const auto number = [&](const char* name, double acre::Edge::*member) {
    auto* field = edge.number(member);
    field->setObjectName(made.named(name));
    second.add(field, kSmall);
  };
  if (band.edge.kind != acre::Edge::Kind::Hard) number("edgeWidth", &acre::Edge::width);
  if (band.edge.kind == acre::Edge::Kind::Noisy) number("edgeFeature", &acre::Edge::feature);
  second.space(24);
}

/// Where a band ends, and whether that is counted from the sea.
void StrataEditor::addEnd(Row& line, const Form<Band>& made, const acre::Threshold& end) {
  auto* fromSea = made.tick(
      "fromSea", tr("sea"), tr("What the end of a band is measured from"),
      tr("On: measured from the sea level, and moves with it. Off: an altitude."),
      [](const Band& b) { return b.below && b.below->fromSea; },
      [this](Band& b, bool on) {
        if (!b.below || b.below->fromSea == on) return;
        document_.finish();  // For its sea level.
        // The place stays, only what it is measured from changes.
        const double sea = planOf(*document_.world()).seaLevel();
        b.below->value += on ? -sea : sea;
        b.below->fromSea = on;
      });
  auto* below = made.number(
      "below", tr("Upper end of the band"), {acre::limits::altitude, 0.5, false, false, {}},
      tr("Heights below this belong to the band, those at it and above to the next one."),
      [](const Band& b) { return b.below ? std::optional(b.below->value) : std::nullopt; },
      [](Band& b, double v) {
        if (b.below) b.below->value = v;
      });
  fromSea->setEnabled(!end.share);
  below->setEnabled(!end.share);
  line.add(fromSea).add(below, kNumberWidth);
}

Choice* StrataEditor::holdChoice(const Form<Band>& made, const std::string& id) {
  auto* hold = new Choice;
  hold->setObjectName(made.named("hold"));
  hold->setAccessibleName(tr("What the end of a band holds"));
  hold->addItems({tr("holds value"), tr("holds share")});
  hold->setFixedWidth(98);
  hold->setToolTip(
      tr("Value: the altitude stays, the share follows the seed.\n"
         "Share: so much of the world stays below, the altitude follows."));
  connect(hold, &Choice::activated, this, [this, id](int index) {
    const auto& stakes = histogram_->stakes();
    for (size_t i = 0; i < stakes.size(); ++i)
      if (stakes[i].id == id && stakes[i].band >= 0)
        return histogram_->hold(static_cast<int>(i), index == 1);
  });
  follow([this, hold, id](const Recipe& r) {
    const Band* b = withId(bandsIn(r), id);
    if (b && b->below) hold->setCurrentIndex(b->below->share ? 1 : 0);
  });
  return hold;
}

void StrataEditor::addSlopeRow(QVBoxLayout* column, const acre::SlopeBand& slope) {
  using acre::SlopeBand;
  const std::string id = slope.id;
  const auto made = form<SlopeBand>(
      slope, [id](Recipe& r) { return withId(r.slopes, id); },
      QStringLiteral("slope.") + QString::fromStdString(id), tr("a slope band"));
  Row(column)
      .add(inked(made.material(&SlopeBand::material, {{tr("unassigned"), acre::kUnassignedId}})), 1)
      .words(tr("steeper"))
      .add(made.number(&SlopeBand::from), kSmall)
      .words(tr("from sea +"))
      .add(made.number(
               "above", tr("Lower end of the slope band"),
               {acre::limits::altitude, 0.5, false, false, {}},
               tr("Lower ground keeps its band, however steep."),
               [](const SlopeBand& s) {
                 return s.above ? std::optional(s.above->value) : std::nullopt;
               },
               [](SlopeBand& s, double v) {
                 s.above = acre::Threshold{v, true, {}};
               }),
          kSmall)
      .add(deleteButton(made.named("delete"), tr("Delete slope"), [id](Recipe& r) {
        std::erase_if(r.slopes, [&](const SlopeBand& s) { return s.id == id; });
      }));
}

void StrataEditor::addMaterialRow(QVBoxLayout* column, const Material& material) {
  const std::string id = material.id;
  const auto made = form<Material>(
      material, [id](Recipe& r) { return withId(r.materials, id); },
      QStringLiteral("material.") + QString::fromStdString(id), tr("a material"));
  auto* remove = deleteButton(made.named("delete"), tr("Delete material"), [id](Recipe& r) {
    std::erase_if(r.materials, [&](const Material& m) { return m.id == id; });
  });
  follow([remove, id](const Recipe& r) {
    const qsizetype users = usersOf(r, id);
    remove->setEnabled(users == 0);
    remove->setToolTip(users == 0 ? tr("Delete this material.")
                       : users == 1
                           ? tr("One rule uses this material; give it another first.")
                           : tr("%1 rules use this material; give them another first.").arg(users));
  });
  Row(column)
      .add(bindColour(
          made.named("colour"), tr("Colour of a material"),
          [id](const Recipe& r) {
            const Material* m = withId(r.materials, id);
            return m ? &m->colour : nullptr;
          },
          [id](Recipe& r, const acre::Colour& c) { withId(r.materials, id)->colour = c; }))
      .add(made.text(&Material::name), 1)
      .add(made.choice(&Material::state, {tr("solid"), tr("passable"), tr("liquid")}))
      .add(remove);
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
  const std::string shape =
      biome_ + ">" + shapeOf(bandsIn(recipe)) + shapeOf(recipe.slopes) + namesOf(recipe.materials);
  if (std::exchange(built_, shape) != shape) rebuild();
  refreshControls();
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
    const QString key = QStringLiteral("band.") + QString::fromStdString(bandsIn(recipe)[b].id);
    for (const char* control : {".below", ".material"})
      if (auto* field = findChild<QWidget*>(key + QLatin1String(control));
          field && field->isEnabled())
        return field->setFocus(Qt::OtherFocusReason);
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
    for (const auto& [id, share] : shares_) {
      share->clear();
      share->setToolTip(tr("What a biome covers stands in the census."));
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
    const auto label = shares_.find(band.id);
    if (label == shares_.end()) continue;
    const QString told = end + name + QStringLiteral(", ") + look::percent(share);
    label->second->setText(share == 0 ? tr("never") : look::percent(share));
    label->second->setAccessibleName(told);
    label->second->setToolTip(told + QStringLiteral(" ") + statistics_.scope());
  }
}

}  // namespace app

#include "moc_strata_editor.cpp"
