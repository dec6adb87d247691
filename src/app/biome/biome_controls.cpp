// The Biomes editor's list of biomes.
#include <algorithm>
#include <cmath>

#include "app/biome/biomes_editor.h"
#include "app/edit/lists.h"
#include "app/edit/shape.h"
#include "app/edit/swatch.h"
#include "app/look/look.h"
#include "recipe/edits.h"
#include "recipe/map_inks.h"
#include "recipe/object_recipe.h"

namespace app {
namespace {

using acre::Area;
using acre::Biome;
using acre::Biomes;
using acre::Recipe;

constexpr int kRowIndent = 10;
constexpr int kNumber = 60;

std::string tagsText(const std::vector<std::string>& tags) {
  std::string out;
  for (const std::string& tag : tags) out += (out.empty() ? "" : ", ") + tag;
  return out;
}

std::vector<std::string> tagsOf(const std::string& text) {
  std::vector<std::string> out;
  for (const QString& tag :
      QString::fromStdString(text).split(QLatin1Char(','), Qt::SkipEmptyParts))
    if (!tag.trimmed().isEmpty()) out.push_back(tag.trimmed().toStdString());
  return out;
}

/// Four biomes far apart in the chart, with inks of the map.
std::vector<Biome> fourBiomes(const acre::AxisScale& x, const acre::AxisScale& y) {
  struct Four {
    const char* id;
    const char* name;
    acre::Colour colour;
    double x, y;
  };
  constexpr Four kFour[] = {{"cold-dry", "Cold and dry", acre::inks::kLimestone, 0.25, 0.25},
      {"cold-wet", "Cold and wet", acre::inks::kBog, 0.25, 0.75},
      {"warm-dry", "Warm and dry", acre::inks::kReedbed, 0.75, 0.25},
      {"warm-wet", "Warm and wet", acre::inks::kBeechwood, 0.75, 0.75}};
  std::vector<Biome> out;
  for (const Four& four : kFour) {
    Biome& biome = out.emplace_back();
    biome.id = four.id;
    biome.name = four.name;
    biome.colour = four.colour;
    biome.ideal = acre::IdealPoint{
        x.low + (x.high - x.low) * four.x, y.low + (y.high - y.low) * four.y, {}, 1};
  }
  return out;
}

/// Inks of the map for further biomes, in turn.
acre::Colour inkNumber(size_t i) {
  constexpr acre::Colour kInks[] = {acre::inks::kWetMeadow, acre::inks::kSaltmarsh,
      acre::inks::kOrchard, acre::inks::kHeath, acre::inks::kBeechwood, acre::inks::kReedbed,
      acre::inks::kLimestone, acre::inks::kBog, acre::inks::kSand, acre::inks::kMudflat,
      acre::inks::kScree, acre::inks::kSnow};
  return kInks[i % std::size(kInks)];
}

}  // namespace

std::string BiomesEditor::shape() const {
  const Biomes& b = biomes();
  std::string out = biome_ + ">" + chart_->chosen() + ">" + std::to_string(slices_->chosen()) +
                    shapeOf(b.regions) + std::to_string(static_cast<int>(b.rules)) +
                    namesOf(b.list) + shapeOf(b.slices);
  for (const Area& a : b.areas) {
    out += a.id + (a.painting ? "p" : "a");
    for (const std::string& slice : a.slices) out += "," + slice;
  }
  for (const Biome& each : b.list)
    out +=
        each.bands ? "own" : each.bandsOf + (each.ideal ? each.ideal->altitude ? "2" : "1" : "0");
  return out;
}

void BiomesEditor::rebuildLists() {
  built_ = shape();
  shares_.clear();
  QVBoxLayout* column = newBody(column_, 1);
  column->setSpacing(5);
  buildBiomes(column);
  if (biomes().rules == acre::ChartRules::Areas) buildRules(column);
  buildSlices(column);
  buildRegions(column);
  buildBorders(column);
  column->addStretch(1);
  refreshControls();
}

void BiomesEditor::fillBiomes(
    Choice* choice, const std::string& current, const QString& none) const {
  choice->clear();
  if (!none.isNull()) choice->addItem(none, QString());
  for (const Biome& b : biomes().list)
    choice->addItem(swatch(b.colour), QString::fromStdString(b.name), QString::fromStdString(b.id));
  choice->setCurrentIndex(choice->findData(QString::fromStdString(current)));
}

// ---- biomes ------------------------------------------------------------------------------------

void BiomesEditor::addBiome() {
  if (biomes().list.size() >= acre::limits::biomes)
    return emit refused(tr("A world holds at most %1 biomes.").arg(acre::limits::biomes));
  Biome biome;
  biome.id = acre::freshId("biome", idsOf(biomes().list));
  biome.name = "Biome " + biome.id.substr(6);
  biome.colour = inkNumber(biomes().list.size());
  if (biomes().rules == acre::ChartRules::Points) {
    const acre::AxisScale x = scale(true), y = scale(false);
    biome.ideal = acre::IdealPoint{(x.low + x.high) / 2, (y.low + y.high) / 2, {}, 1};
  }
  biome_ = biome.id;
  applyBiomes(tr("Add biome"), [&](Biomes& b) { b.list.push_back(biome); });
}

void BiomesEditor::addFour() {
  const auto four = fourBiomes(scale(true), scale(false));
  biome_ = four.front().id;
  applyBiomes(tr("Start with four ideal points"), [&](Biomes& b) {
    b.list = four;
    b.rules = acre::ChartRules::Points;
  });
}

void BiomesEditor::buildBiomes(QVBoxLayout* column) {
  column->addWidget(ruleLine());
  auto* head = new QHBoxLayout;
  head->addWidget(heading(tr("Biomes")), 1);
  head->addWidget(tableButton(tr("Biomes"), "/biomes/list"));
  head->addWidget(caption(tr("share of the world")));
  head->addSpacing(24);
  column->addLayout(head);
  if (biomes().list.empty()) {
    auto* empty = new QLabel(tr("No biome yet. Add one, or start with four ideal points."));
    empty->setWordWrap(true);
    column->addWidget(empty);
  }
  for (size_t i = 0; i < biomes().list.size(); ++i) {
    addBiomeRow(column, i);
    if (biomes().list[i].id == biome_) buildBiomeDetails(column, biomes().list[i]);
  }
  auto* add = new QPushButton(tr("Add biome"));
  add->setObjectName(QStringLiteral("biomes.add"));
  connect(add, &QPushButton::clicked, this, &BiomesEditor::addBiome);
  Row row(column);
  row.add(add);
  if (biomes().list.empty()) {
    auto* four = new QPushButton(tr("Four ideal points"));
    four->setObjectName(QStringLiteral("biomes.addFour"));
    connect(four, &QPushButton::clicked, this, &BiomesEditor::addFour);
    row.add(four);
  }
  row.rest();
}

namespace {

/// Takes a biome out of whatever names it.
void deleteBiome(Recipe& r, const std::string& id) {
  Biomes& b = r.biomes;
  std::erase_if(b.areas, [&](const Area& a) { return !a.painting && a.biome == id; });
  for (Area& a : b.areas) {
    if (!a.painting) continue;
    auto& ids = a.painting->biomes;
    const auto at = std::find(ids.begin(), ids.end(), id) - ids.begin();
    if (at == static_cast<ptrdiff_t>(ids.size())) continue;
    ids.erase(ids.begin() + at);
    for (uint16_t& cell : a.painting->cells)
      cell = cell == at + 1 ? uint16_t{0} : cell > at + 1 ? static_cast<uint16_t>(cell - 1) : cell;
  }
  for (acre::Slice& s : b.slices)
    if (s.biome == id) s.biome.clear();
  for (Biome& other : b.list)
    if (other.bandsOf == id) other.bandsOf.clear();
  for (acre::ObjectKind& kind : r.objects->kinds) {
    std::erase_if(kind.biomes, [&](const acre::BiomeDensity& of) { return of.biome == id; });
    for (acre::ObjectChoice& one : kind.what) std::erase(one.biomes, id);
  }
  std::erase_if(b.list, [&](const Biome& x) { return x.id == id; });
}

}  // namespace

auto BiomesEditor::formOf(const Biome& biome) -> Form<Biome> {
  return form<Biome>(
      biome, [id = biome.id](Recipe& r) { return withId(r.biomes.list, id); },
      QStringLiteral("biome.") + QString::fromStdString(biome.id), tr("a biome"));
}

void BiomesEditor::addBiomeRow(QVBoxLayout* column, size_t index) {
  const Biome& biome = biomes().list[index];
  const std::string id = biome.id;
  const auto made = formOf(biome);
  auto* name = made.text(&Biome::name);
  name->setProperty("biome", QString::fromStdString(id));
  name->installEventFilter(this);
  follow([this, id, name](const Recipe&) {
    QFont font = name->font();
    font.setWeight(id == biome_ ? QFont::DemiBold : QFont::Normal);
    name->setFont(font);
  });
  auto* share = new QLabel;
  share->setObjectName(made.named("share"));
  share->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
  share->setFixedWidth(54);
  shares_.push_back({index + 1, share});
  auto* remove = deleteButton(
      made.named("delete"), tr("Delete biome"), [id](Recipe& r) { deleteBiome(r, id); });
  remove->setToolTip(tr("Deletes the biome with its areas; what they covered becomes a hole."));
  Row(column)
      .add(bindColour(
          made.named("colour"), tr("Colour of a biome"),
          [id](const Recipe& r) {
            const Biome* b = acre::biomeOf(r, id);
            return b ? &b->colour : nullptr;
          },
          [id](Recipe& r, const acre::Colour& c) { acre::biomeOf(r, id)->colour = c; }))
      .add(name, 1)
      .add(share)
      .add(remove);
}

/// The general bands, its own, or another's.
Choice* BiomesEditor::bandsChoice(const Form<Biome>& made, const Biome& biome) {
  const std::string id = biome.id;
  Offered offered = {{tr("the general ones"), "general"}, {tr("its own"), "own"}};
  for (const Biome& other : biomes().list)
    if (other.id != id && other.bands)
      offered.emplace_back(
          tr("those of %1").arg(QString::fromStdString(other.name)), "of:" + other.id);
  return bindChoice(
      made.named("bands"), tr("Bands of a biome"),
      tr("What its ground is made of: the general bands, its own, or another's."), offered,
      [id](const Recipe& r) -> std::optional<std::string> {
        const Biome* b = acre::biomeOf(r, id);
        if (!b) return {};
        return !b->bandsOf.empty() ? "of:" + b->bandsOf : b->bands ? "own" : "general";
      },
      [id](Recipe& r, const std::string& chosen) {
        Biome& b = *acre::biomeOf(r, id);
        if (chosen != "own") {
          b.bands.reset();
          // Others that read them go back to the general ones.
          for (Biome& other : r.biomes.list)
            if (other.bandsOf == id) other.bandsOf.clear();
        } else if (!b.bands) {
          b.bands = r.bands;
          if (b.bands->empty()) b.bands->push_back({"all", {}, acre::kUnassignedId});
        }
        b.bandsOf = chosen.starts_with("of:") ? chosen.substr(3) : std::string();
      });
}

void BiomesEditor::buildBiomeDetails(QVBoxLayout* column, const Biome& biome) {
  const std::string id = biome.id;
  const auto made = formOf(biome);
  auto* box = new QWidget;
  auto* inner = new QVBoxLayout(box);
  inner->setContentsMargins(kRowIndent, 0, 0, 6);
  inner->setSpacing(4);
  column->addWidget(box);
  const auto relief =
      made.template within<acre::Relief>(biome.relief, [](Biome& b) { return &b.relief; });
  Row heights(inner);
  relief.number(heights, &acre::Relief::factor, kNumber, tr("height ×"))
      .number(heights, &acre::Relief::raise, kNumber)
      .number(heights, &acre::Relief::rough, kNumber);
  heights.rest();
  auto* edit = new QPushButton(tr("Edit"));
  edit->setObjectName(made.named("editBands"));
  edit->setToolTip(tr("Shows its bands in Strata."));
  edit->setEnabled(biome.bands.has_value());
  connect(edit, &QPushButton::clicked, this,
      [this, id] { emit bandsRequested(QString::fromStdString(id)); });
  Row(inner).words(tr("bands")).add(bandsChoice(made, biome), 1).add(edit);
  buildIdeal(inner, made, biome);
  Row last(inner);
  made.number(last, &Biome::weight, kNumber, tr("odds"));
  auto* tags = bindText(
      made.named("tags"), tr("Tags of a biome"),
      tr("Words for later stages, parted by commas: a-z, 0-9, -, _ and dots."),
      [id](const Recipe& r) -> std::optional<std::string> {
        const Biome* b = acre::biomeOf(r, id);
        return b ? std::optional(tagsText(b->tags)) : std::nullopt;
      },
      [id](Recipe& r, const std::string& text) { acre::biomeOf(r, id)->tags = tagsOf(text); });
  tags->setPlaceholderText(tr("wet, north"));
  last.words(tr("tags")).add(tags, 1);
}

/// Where on the chart the biome is at its best.
void BiomesEditor::buildIdeal(QVBoxLayout* column, const Form<Biome>& made, const Biome& biome) {
  using acre::IdealPoint;
  Row row(column);
  row.add(made.tick(
      "hasIdeal", tr("ideal point"), tr("Ideal point of a biome"),
      tr("Where on the chart it is at its best; used when the chart is of points."),
      [](const Biome& b) { return b.ideal.has_value(); },
      [x = scale(true), y = scale(false)](Biome& b, bool on) {
        b.ideal.reset();
        if (on) b.ideal = IdealPoint{(x.low + x.high) / 2, (y.low + y.high) / 2, {}, 1};
      }));
  if (!biome.ideal) return (void)row.rest();
  const auto ideal = made.template within<IdealPoint>(
      *biome.ideal, [](Biome& b) { return b.ideal ? &*b.ideal : nullptr; });
  const auto along = [&](const char* name, bool alongX, double IdealPoint::*member) {
    auto* field = ideal.number(
        name, alongX ? tr("Ideal point across") : tr("Ideal point up"),
        {acre::limits::altitude, 0.1, false, false, QString::fromStdString(scale(alongX).unit)},
        tr("In the axis's own unit."),
        [this, alongX, member](const IdealPoint& p) -> std::optional<double> {
          return std::round(scale(alongX).told(p.*member) * 1e6) / 1e6;
        },
        [this, alongX, member](IdealPoint& p, double v) { p.*member = scale(alongX).untold(v); });
    row.add(field, kNumber);
  };
  row.words(tr("at"));
  along("idealX", true, &IdealPoint::x);
  along("idealY", false, &IdealPoint::y);
  row.rest();
  Row second(column);
  second.add(ideal.tick(
      "hasAltitude", tr("at an altitude"), tr("Ideal altitude"), {},
      [](const IdealPoint& p) { return p.altitude.has_value(); },
      [](IdealPoint& p, bool on) { p.altitude = on ? std::optional(10.0) : std::nullopt; }));
  if (biome.ideal->altitude) {
    auto* altitude = ideal.number(&IdealPoint::altitude);
    altitude->setObjectName(made.named("idealAltitude"));
    second.words(tr("sea +")).add(altitude, kNumber);
  }
  auto* weight = ideal.number(&IdealPoint::weight);
  weight->setObjectName(made.named("idealWeight"));
  second.words(tr("reach")).add(weight, kNumber).rest();
}

}  // namespace app
