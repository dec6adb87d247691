// The Biomes editor's list of biomes.
#include <QColorDialog>
#include <QGridLayout>
#include <QSignalBlocker>
#include <algorithm>

#include "app/biome/biomes_editor.h"
#include "app/biome/controls.h"
#include "app/look/look.h"
#include "recipe/edits.h"

namespace app {
namespace {

using acre::Area;
using acre::Biome;
using acre::Biomes;
using acre::Recipe;

constexpr int kRowIndent = 10;

/// Four biomes far apart in the chart, with inks of the map.
std::vector<Biome> fourBiomes(const acre::AxisScale& x, const acre::AxisScale& y) {
  struct Four {
    const char* id;
    const char* name;
    acre::Colour colour;
    double x, y;
  };
  constexpr Four kFour[] = {{"cold-dry", "Cold and dry", {0xBD, 0xCA, 0xD1}, 0.25, 0.25},
      {"cold-wet", "Cold and wet", {0x5F, 0x4A, 0x40}, 0.25, 0.75},
      {"warm-dry", "Warm and dry", {0xC1, 0xB2, 0x73}, 0.75, 0.25},
      {"warm-wet", "Warm and wet", {0x5C, 0x71, 0x42}, 0.75, 0.75}};
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
  constexpr acre::Colour kInks[] = {{0xE9, 0xE9, 0xAC}, {0x86, 0x90, 0x5C}, {0xBF, 0x98, 0x91},
      {0x92, 0x70, 0x98}, {0x5C, 0x71, 0x42}, {0xC1, 0xB2, 0x73}, {0xBD, 0xCA, 0xD1},
      {0x5F, 0x4A, 0x40}, {0xDD, 0xCC, 0xBD}, {0x84, 0x7B, 0x6F}, {0x96, 0x9C, 0xA6},
      {0xF9, 0xF9, 0xF8}};
  return kInks[i % std::size(kInks)];
}

}  // namespace

/// All that decides which controls there are.
QString BiomesEditor::signature() const {
  QStringList parts;
  const auto add = [&](const std::string& text) { parts << QString::fromStdString(text); };
  add(biome_);
  add(chart_->chosen());
  parts << QString::number(static_cast<int>(biomes().rules)) << QString::number(slices_->chosen());
  for (const Biome& b : biomes().list) {
    add(b.id);
    if (b.id != biome_) continue;
    parts << QString::number(b.ideal ? (b.ideal->altitude ? 2 : 1) : 0);
  }
  for (const Area& a : biomes().areas) {
    add(a.id);
    for (const std::string& s : a.slices) add(s);
  }
  for (const acre::Slice& s : biomes().slices) add("/" + s.id);
  parts << QString::number(biomes().regions.on)
        << QString::number(static_cast<int>(biomes().regions.choice));
  add(biomes().regions.warp.x + "|" + biomes().regions.warp.z);
  return parts.join(QLatin1Char(';'));
}

void BiomesEditor::rebuildLists() {
  shownSignature_ = signature();
  clearBindings();
  followers_.clear();
  shares_.clear();
  if (lists_) {
    column_->removeWidget(lists_);
    lists_->hide();
    lists_->deleteLater();
  }
  lists_ = new QWidget;
  auto* column = new QVBoxLayout(lists_);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(5);
  buildBiomes(column);
  if (biomes().rules == acre::ChartRules::Areas) buildRules(column);
  buildSlices(column);
  buildRegions(column);
  buildBorders(column);
  column->addStretch(1);
  column_->addWidget(lists_, 1);
  for (const auto& follow : followers_) follow();
  refreshNumbers();
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
  head->addWidget(caption(tr("share of the world")));
  head->addSpacing(24);
  column->addLayout(head);
  if (biomes().list.empty()) {
    auto* empty = new QLabel(tr("No biome yet. Add one, or start with four ideal points."));
    empty->setWordWrap(true);
    column->addWidget(empty);
  }
  for (size_t i = 0; i < biomes().list.size(); ++i) {
    const Biome& biome = biomes().list[i];
    const std::string id = biome.id;
    const QString key = QStringLiteral("biome.") + QString::fromStdString(id);
    auto* row = new QWidget;
    auto* line = new QHBoxLayout(row);
    line->setContentsMargins(0, 0, 0, 0);
    line->setSpacing(5);
    auto* colour = smallButton({}, key + QStringLiteral(".colour"), tr("Colour of the biome"));
    connect(colour, &QToolButton::clicked, this, [this, id] {
      const Biome* b = acre::biomeOf(document_.recipe(), id);
      auto* dialog = new QColorDialog(QColor(b->colour.red, b->colour.green, b->colour.blue), this);
      dialog->setAttribute(Qt::WA_DeleteOnClose);
      connect(dialog, &QColorDialog::colorSelected, this, [this, id](const QColor& c) {
        apply(tr("Colour of a biome"), [&](Recipe& r) {
          acre::biomeOf(r, id)->colour = {static_cast<uint8_t>(c.red()),
              static_cast<uint8_t>(c.green()), static_cast<uint8_t>(c.blue())};
        });
      });
      dialog->open();
    });
    auto* name = new QLineEdit;
    name->setObjectName(key + QStringLiteral(".name"));
    name->setAccessibleName(tr("Name of the biome"));
    name->setProperty("biome", QString::fromStdString(id));
    name->installEventFilter(this);
    name->setMaxLength(100);
    connect(name, &QLineEdit::editingFinished, this, [this, id, name] {
      const std::string text = name->text().toStdString();
      const Biome* b = acre::biomeOf(document_.recipe(), id);
      if (b && b->name != text)
        apply(tr("Rename biome"), [&](Recipe& r) { acre::biomeOf(r, id)->name = text; });
    });
    auto* share = new QLabel;
    share->setObjectName(key + QStringLiteral(".share"));
    share->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
    share->setFixedWidth(54);
    shares_.push_back({i + 1, share});
    auto* remove =
        smallButton(QStringLiteral("×"), key + QStringLiteral(".delete"), tr("Delete biome"));
    remove->setToolTip(tr("Deletes the biome with its areas; what they covered becomes a hole."));
    connect(remove, &QToolButton::clicked, this, [this, id] {
      applyBiomes(tr("Delete biome"), [&](Biomes& b) {
        std::erase_if(b.areas, [&](const Area& a) { return !a.painting && a.biome == id; });
        for (Area& a : b.areas) {
          if (!a.painting) continue;
          auto& ids = a.painting->biomes;
          const auto at = std::find(ids.begin(), ids.end(), id) - ids.begin();
          if (at == static_cast<ptrdiff_t>(ids.size())) continue;
          ids.erase(ids.begin() + at);
          for (uint16_t& cell : a.painting->cells)
            cell = cell == at + 1  ? uint16_t{0}
                   : cell > at + 1 ? static_cast<uint16_t>(cell - 1)
                                   : cell;
        }
        for (acre::Slice& s : b.slices)
          if (s.biome == id) s.biome.clear();
        for (Biome& other : b.list)
          if (other.bandsOf == id) other.bandsOf.clear();
        std::erase_if(b.list, [&](const Biome& x) { return x.id == id; });
      });
    });
    line->addWidget(colour);
    line->addWidget(name, 1);
    line->addWidget(share);
    line->addWidget(remove);
    column->addWidget(row);
    followers_.push_back([this, id, colour, name] {
      const Biome* b = acre::biomeOf(document_.recipe(), id);
      if (!b) return;
      colour->setIcon(swatch(b->colour));
      if (!name->hasFocus()) name->setText(QString::fromStdString(b->name));
      QFont font = name->font();
      font.setWeight(id == biome_ ? QFont::DemiBold : QFont::Normal);
      name->setFont(font);
    });
    if (id == biome_) buildBiomeDetails(column, biome);
  }
  auto* row = new QHBoxLayout;
  auto* add = new QPushButton(tr("Add biome"));
  add->setObjectName(QStringLiteral("biomes.add"));
  connect(add, &QPushButton::clicked, this, &BiomesEditor::addBiome);
  row->addWidget(add);
  if (biomes().list.empty()) {
    auto* four = new QPushButton(tr("Four ideal points"));
    four->setObjectName(QStringLiteral("biomes.addFour"));
    connect(four, &QPushButton::clicked, this, &BiomesEditor::addFour);
    row->addWidget(four);
  }
  row->addStretch(1);
  column->addLayout(row);
}

NumberField* BiomesEditor::biomeNumber(const char* key, const QString& step, const NumberSpec& spec,
    std::function<std::optional<double>(const Biome&)> get, std::function<void(Biome&, double)> set,
    const QString& tip) {
  const std::string id = biome_;
  auto* field = bindNumber(spec,
      QStringLiteral("biome.") + QString::fromStdString(id) + QLatin1Char('.') + QLatin1String(key),
      step,
      {[id, get](const Recipe& r) -> std::optional<double> {
         const Biome* b = acre::biomeOf(r, id);
         return b ? get(*b) : std::nullopt;
       },
          [id, set](Recipe& r, double v) {
            if (Biome* b = acre::biomeOf(r, id)) set(*b, v);
          }},
      tip);
  field->setFixedWidth(60);
  return field;
}

void BiomesEditor::buildBiomeDetails(QVBoxLayout* column, const Biome& biome) {
  const std::string id = biome.id;
  const QString key = QStringLiteral("biome.") + QString::fromStdString(id);
  auto* box = new QWidget;
  auto* grid = new QGridLayout(box);
  grid->setContentsMargins(kRowIndent, 0, 0, 6);
  grid->setHorizontalSpacing(5);
  grid->setVerticalSpacing(4);
  grid->setColumnStretch(6, 1);
  int row = 0;
  const auto label = [&](const QString& text, int at) { grid->addWidget(caption(text), row, at); };
  const Place<acre::Relief> place = [id](Recipe& r) -> acre::Relief* {
    auto* found = withId(r.biomes.list, id);
    return found ? &found->relief : nullptr;
  };
  const auto relief = [&](const QString& words, double acre::Relief::*member, int at) {
    const Number number = declared<acre::Relief>(biome.relief, place, member, words);
    label(number.label, at);
    NumberField* field = bindNumber(key, tr("a biome"), number);
    field->setFixedWidth(60);
    grid->addWidget(field, row, at + 1);
  };
  relief(tr("height ×"), &acre::Relief::factor, 0);
  relief({}, &acre::Relief::raise, 2);
  relief({}, &acre::Relief::rough, 4);
  ++row;

  label(tr("bands"), 0);
  auto* bands = new Choice;
  bands->setObjectName(key + QStringLiteral(".bands"));
  bands->setAccessibleName(tr("Bands of the biome"));
  bands->setToolTip(tr("What its ground is made of: the general bands, its own, or another's."));
  bands->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
  bands->setMinimumContentsLength(8);
  bands->addItem(tr("the general ones"), QStringLiteral("general"));
  bands->addItem(tr("its own"), QStringLiteral("own"));
  for (const Biome& other : biomes().list)
    if (other.id != id && other.bands)
      bands->addItem(tr("those of %1").arg(QString::fromStdString(other.name)),
          QStringLiteral("of:") + QString::fromStdString(other.id));
  connect(bands, &Choice::activated, this, [this, id, bands] {
    const QString chosen = bands->currentData().toString();
    apply(tr("Bands of a biome"), [&](Recipe& r) {
      Biome& b = *acre::biomeOf(r, id);
      if (chosen != QStringLiteral("own")) {
        b.bands.reset();
        // Others that read them go back to the general ones.
        for (Biome& other : r.biomes.list)
          if (other.bandsOf == id) other.bandsOf.clear();
      } else if (!b.bands) {
        b.bands = r.bands;
        if (b.bands->empty()) b.bands->push_back({"all", {}, acre::kUnassignedId});
      }
      b.bandsOf =
          chosen.startsWith(QStringLiteral("of:")) ? chosen.mid(3).toStdString() : std::string();
    });
  });
  grid->addWidget(bands, row, 1, 1, 4);
  auto* edit = new QPushButton(tr("Edit"));
  edit->setObjectName(key + QStringLiteral(".editBands"));
  edit->setToolTip(tr("Shows its bands in Strata."));
  connect(edit, &QPushButton::clicked, this,
      [this, id] { emit bandsRequested(QString::fromStdString(id)); });
  grid->addWidget(edit, row, 5);
  followers_.push_back([this, id, bands, edit] {
    const Biome* b = acre::biomeOf(document_.recipe(), id);
    if (!b) return;
    bands->setCurrentIndex(bands->findData(
        !b->bandsOf.empty() ? QStringLiteral("of:") + QString::fromStdString(b->bandsOf)
        : b->bands          ? QStringLiteral("own")
                            : QStringLiteral("general")));
    edit->setEnabled(b->bands.has_value());
  });
  ++row;

  auto* point = new Tick(tr("ideal point"));
  point->setObjectName(key + QStringLiteral(".hasIdeal"));
  point->setChecked(biome.ideal.has_value());
  point->setToolTip(tr("Where on the chart it is at its best; used when the chart is of points."));
  connect(point, &Tick::toggled, this, [this, id](bool on) {
    const acre::AxisScale x = scale(true), y = scale(false);
    apply(on ? tr("Give an ideal point") : tr("Take the ideal point"), [&](Recipe& r) {
      auto& ideal = acre::biomeOf(r, id)->ideal;
      ideal.reset();
      if (on) ideal = acre::IdealPoint{(x.low + x.high) / 2, (y.low + y.high) / 2, {}, 1};
    });
  });
  grid->addWidget(point, row, 0, 1, 2);
  if (biome.ideal) {
    const auto place = [&](const char* name, bool alongX) {
      return biomeNumber(
          name, alongX ? tr("Ideal point across") : tr("Ideal point up"),
          {acre::limits::altitude, 0.1, false, false, QString::fromStdString(scale(alongX).unit)},
          [this, alongX](const Biome& b) -> std::optional<double> {
            if (!b.ideal) return {};
            const double told = scale(alongX).told(alongX ? b.ideal->x : b.ideal->y);
            return std::round(told * 1e6) / 1e6;
          },
          [this, alongX](Biome& b, double v) {
            if (b.ideal) (alongX ? b.ideal->x : b.ideal->y) = scale(alongX).untold(v);
          },
          tr("In the axis's own unit."));
    };
    label(tr("at"), 2);
    grid->addWidget(place("idealX", true), row, 3);
    grid->addWidget(place("idealY", false), row, 5);
    ++row;
    auto* altitude = new Tick(tr("at an altitude"));
    altitude->setObjectName(key + QStringLiteral(".hasAltitude"));
    altitude->setChecked(biome.ideal->altitude.has_value());
    connect(altitude, &Tick::toggled, this, [this, id](bool on) {
      apply(on ? tr("Ideal altitude") : tr("No ideal altitude"), [&](Recipe& r) {
        auto& ideal = acre::biomeOf(r, id)->ideal;
        if (!ideal) return;
        ideal->altitude.reset();
        if (on) ideal->altitude = 10;
      });
    });
    grid->addWidget(altitude, row, 0, 1, 2);
    if (biome.ideal->altitude) {
      label(tr("sea +"), 2);
      grid->addWidget(biomeNumber(
                          "idealAltitude", tr("Ideal altitude"),
                          {acre::limits::altitude, 0.5, false, false, {}},
                          [](const Biome& b) -> std::optional<double> {
                            return b.ideal ? b.ideal->altitude : std::nullopt;
                          },
                          [](Biome& b, double v) {
                            if (b.ideal) b.ideal->altitude = v;
                          },
                          tr("Base height above the sea where it is at its best.")),
          row, 3);
    }
    label(tr("reach"), 4);
    grid->addWidget(biomeNumber(
                        "idealWeight", tr("Reach of the ideal point"),
                        {acre::limits::idealWeight, 1, true, false, {}},
                        [](const Biome& b) -> std::optional<double> {
                          return b.ideal ? std::optional(b.ideal->weight) : std::nullopt;
                        },
                        [](Biome& b, double v) {
                          if (b.ideal) b.ideal->weight = v;
                        },
                        tr("2 reaches twice as far as 1.")),
        row, 5);
  }
  ++row;
  label(tr("odds"), 0);
  grid->addWidget(
      biomeNumber(
          "weight", tr("Odds of a biome"), {acre::limits::biomeWeight, 0.1, false, false, {}},
          [](const Biome& b) { return std::optional(b.weight); },
          [](Biome& b, double v) { b.weight = v; },
          tr("Among the biomes that regions draw from; 0 is never drawn.")),
      row, 1);
  label(tr("tags"), 2);
  auto* tags = new QLineEdit;
  tags->setObjectName(key + QStringLiteral(".tags"));
  tags->setAccessibleName(tr("Tags"));
  tags->setPlaceholderText(tr("wet, north"));
  tags->setToolTip(tr("Words for later stages, parted by commas: a-z, 0-9, -, _ and dots."));
  connect(tags, &QLineEdit::editingFinished, this, [this, id, tags] {
    std::vector<std::string> list;
    for (const QString& tag : tags->text().split(QLatin1Char(','), Qt::SkipEmptyParts))
      if (!tag.trimmed().isEmpty()) list.push_back(tag.trimmed().toStdString());
    const Biome* b = acre::biomeOf(document_.recipe(), id);
    if (b && b->tags != list)
      apply(tr("Tags of a biome"), [&](Recipe& r) { acre::biomeOf(r, id)->tags = list; });
  });
  followers_.push_back([this, id, tags] {
    const Biome* b = acre::biomeOf(document_.recipe(), id);
    if (!b || tags->hasFocus()) return;
    QStringList words;
    for (const std::string& tag : b->tags) words << QString::fromStdString(tag);
    tags->setText(words.join(QStringLiteral(", ")));
  });
  grid->addWidget(tags, row, 3, 1, 4);
  column->addWidget(box);
}

}  // namespace app
