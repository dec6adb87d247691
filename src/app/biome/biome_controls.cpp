// The lists of the Biomes editor: biomes, rules, slices, regions and borders.
#include <QColorDialog>
#include <QGridLayout>
#include <QPainter>
#include <QSignalBlocker>
#include <algorithm>

#include "app/biome/biomes_editor.h"
#include "app/look/look.h"

namespace app {
namespace {

using acre::Area;
using acre::Biome;
using acre::Biomes;
using acre::Recipe;

constexpr int kRowIndent = 10;

QIcon swatch(const acre::Colour& colour) {
  QPixmap pixmap(14, 14);
  QPainter p(&pixmap);
  p.fillRect(pixmap.rect(), QColor(colour.red, colour.green, colour.blue));
  p.setPen(look::tokens().edge);
  p.drawRect(0, 0, 13, 13);
  return pixmap;
}

template <class List>
auto* withId(List& list, const std::string& id) {
  const auto found =
      std::find_if(list.begin(), list.end(), [&](const auto& m) { return m.id == id; });
  return found == list.end() ? nullptr : &*found;
}

template <class T>
std::vector<std::string> idsOf(const std::vector<T>& list) {
  std::vector<std::string> ids;
  for (const T& member : list) ids.push_back(member.id);
  return ids;
}

QToolButton* smallButton(const QString& text, const QString& name, const QString& tip) {
  auto* button = new QToolButton;
  button->setText(text);
  button->setProperty("role", "small");
  button->setObjectName(name);
  button->setToolTip(tip);
  button->setAccessibleName(tip);
  return button;
}

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
                                    {0x92, 0x70, 0x98}, {0x5C, 0x71, 0x42}, {0xC1, 0xB2, 0x73},
                                    {0xBD, 0xCA, 0xD1}, {0x5F, 0x4A, 0x40}, {0xDD, 0xCC, 0xBD},
                                    {0x84, 0x7B, 0x6F}, {0x96, 0x9C, 0xA6}, {0xF9, 0xF9, 0xF8}};
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

void BiomesEditor::fillBiomes(Choice* choice, const std::string& current,
                              const QString& none) const {
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
                                          static_cast<uint8_t>(c.green()),
                                          static_cast<uint8_t>(c.blue())};
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
                                       std::function<std::optional<double>(const Biome&)> get,
                                       std::function<void(Biome&, double)> set,
                                       const QString& tip) {
  const std::string id = biome_;
  auto* field = bindNumber(
      spec,
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
  const auto relief = [&](const char* name, const QString& step, const acre::Range& range,
                          double stepSize, double acre::Relief::*member, const QString& tip) {
    return biomeNumber(
        name, step, {range, stepSize, false, false, {}},
        [member](const Biome& b) { return std::optional(b.relief.*member); },
        [member](Biome& b, double v) { b.relief.*member = v; }, tip);
  };
  label(tr("height ×"), 0);
  grid->addWidget(
      relief("factor", tr("Height factor"), acre::limits::reliefFactor, 0.05, &acre::Relief::factor,
             tr("Times the height above the sea: below 1 flattens, above 1 steepens.")),
      row, 1);
  label(tr("raise"), 2);
  grid->addWidget(relief("raise", tr("Raise"), acre::limits::raise, 0.25, &acre::Relief::raise,
                         tr("Cells that the ground is raised; below 0 it is lowered.")),
                  row, 3);
  label(tr("rough"), 4);
  grid->addWidget(relief("rough", tr("Roughness"), acre::limits::raise, 0.1, &acre::Relief::rough,
                         tr("Cells of unevenness that are added.")),
                  row, 5);
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
  grid->setColumnStretch(2, 2);
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
      biome->setMinimumContentsLength(4);
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
      applyBiomes(tr("Delete area"), [&](Biomes& b) {
        std::erase_if(b.areas, [&](const Area& a) { return a.id == id; });
      });
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
      auto* below = bindNumber(
          {acre::limits::altitude, 0.5, false, false, {}}, key + QStringLiteral(".below"),
          tr("Upper end of the slice"),
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

// ---- regions and borders -----------------------------------------------------------------------

NumberField* BiomesEditor::stageNumber(const char* key, const QString& step, const NumberSpec& spec,
                                       std::function<double*(Biomes&)> place, const QString& tip) {
  auto* field = bindNumber(
      spec, QLatin1String(key), step,
      {[place](const Recipe& r) { return std::optional(*place(const_cast<Biomes&>(r.biomes))); },
       [place](Recipe& r, double v) { *place(r.biomes) = v; }},
      tip);
  field->setFixedWidth(92);
  return field;
}

void BiomesEditor::buildRegions(QVBoxLayout* column) {
  column->addSpacing(6);
  column->addWidget(ruleLine());
  auto* on = new Tick(tr("Lay the chart on Voronoi regions"));
  on->setObjectName(QStringLiteral("regions.on"));
  on->setChecked(biomes().regions.on);
  on->setToolTip(tr("One site in every square; each place belongs to the nearest."));
  connect(on, &Tick::toggled, this, [this](bool checked) {
    const bool taken = applyBiomes(checked ? tr("Regions on") : tr("Regions off"), [&](Biomes& b) {
      b.regions.on = checked;
      // Borders wider than a region would make no sense.
      if (checked) b.border.ground = std::min(b.border.ground, b.regions.size);
    });
    if (!taken) refresh();
  });
  column->addWidget(on);
  if (!biomes().regions.on) return;
  auto* grid = new QGridLayout;
  grid->setHorizontalSpacing(6);
  grid->setVerticalSpacing(4);
  grid->setColumnStretch(4, 1);
  const auto add = [&](int row, int at, const QString& label, QWidget* widget) {
    grid->addWidget(caption(label), row, at);
    grid->addWidget(widget, row, at + 1);
  };
  auto* choice = new Choice;
  choice->setObjectName(QStringLiteral("regions.choice"));
  choice->setAccessibleName(tr("Biome of a region"));
  choice->addItems({tr("by the climate at its site"), tr("drawn by the biomes' odds"),
                    tr("cell by cell, from the chart")});
  choice->setCurrentIndex(static_cast<int>(biomes().regions.choice));
  connect(choice, &Choice::activated, this, [this](int index) {
    applyBiomes(tr("Biome of a region"),
                [&](Biomes& b) { b.regions.choice = static_cast<acre::Regions::Choice>(index); });
  });
  grid->addWidget(caption(tr("biome")), 0, 0);
  grid->addWidget(choice, 0, 1, 1, 4);
  add(1, 0, tr("size"),
      stageNumber(
          "regions.size", tr("Size of the regions"),
          {acre::limits::regionSize, 1, true, false, tr("cells")},
          [](Biomes& b) { return &b.regions.size; },
          tr("Side of a square with one site: the root of a region's mean area.")));
  add(1, 2, tr("jitter"),
      stageNumber(
          "regions.jitter", tr("Jitter of the sites"),
          {acre::limits::jitter, 0.02, false, false, {}},
          [](Biomes& b) { return &b.regions.jitter; },
          tr("0: sites in the middle of their squares; 1: anywhere in them.")));
  add(2, 0, tr("warp"),
      stageNumber(
          "regions.warp", tr("Warp of the borders"),
          {acre::limits::warpCells, 0.5, false, false, tr("cells")},
          [](Biomes& b) { return &b.regions.warp.cells; },
          tr("How far borders are shifted by noise; 0: straight.")));
  if (biomes().regions.warp.x.empty())
    add(2, 2, tr("features"),
        stageNumber(
            "regions.warpWidth", tr("Feature width of the warp"),
            {acre::limits::width, 1, true, false, tr("cells")},
            [](Biomes& b) { return &b.regions.warp.noise.width; },
            tr("Cells from one bay of a border to the next.")));
  auto* by = new Choice;
  by->setObjectName(QStringLiteral("regions.warpBy"));
  by->setAccessibleName(tr("What warps the borders"));
  by->setToolTip(tr("Noise of its own, or two fields of the recipe times the warp's cells."));
  by->addItem(tr("by noise of its own"), QString());
  for (const acre::FieldRecipe* f : acre::fieldsOf(document_.recipe()))
    by->addItem(tr("by %1").arg(QString::fromStdString(f->name)), QString::fromStdString(f->id));
  by->setCurrentIndex(by->findData(QString::fromStdString(biomes().regions.warp.x)));
  auto* byZ = new Choice;
  byZ->setObjectName(QStringLiteral("regions.warpByZ"));
  byZ->setAccessibleName(tr("What warps the borders from north to south"));
  for (const acre::FieldRecipe* f : acre::fieldsOf(document_.recipe()))
    byZ->addItem(tr("by %1").arg(QString::fromStdString(f->name)), QString::fromStdString(f->id));
  byZ->setCurrentIndex(byZ->findData(QString::fromStdString(biomes().regions.warp.z)));
  for (Choice* c : {by, byZ}) {
    c->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    c->setMinimumContentsLength(8);
  }
  byZ->setVisible(!biomes().regions.warp.x.empty());
  connect(by, &Choice::activated, this, [this, by] {
    const std::string id = by->currentData().toString().toStdString();
    applyBiomes(tr("What warps the borders"), [&](Biomes& b) {
      b.regions.warp.x = id;
      if (id.empty() || b.regions.warp.z.empty()) b.regions.warp.z = id;
    });
  });
  connect(byZ, &Choice::activated, this, [this, byZ] {
    const std::string id = byZ->currentData().toString().toStdString();
    applyBiomes(tr("What warps the borders"), [&](Biomes& b) { b.regions.warp.z = id; });
  });
  grid->addWidget(caption(tr("warped")), 3, 0);
  grid->addWidget(by, 3, 1, 1, 2);
  grid->addWidget(byZ, 3, 3, 1, 2);
  column->addLayout(grid);
}

void BiomesEditor::buildBorders(QVBoxLayout* column) {
  column->addSpacing(6);
  column->addWidget(ruleLine());
  const bool byRegion =
      biomes().regions.on && biomes().regions.choice != acre::Regions::Choice::Cells;
  column->addWidget(heading(tr("Where heights pass from biome to biome")));
  auto* grid = new QGridLayout;
  grid->setHorizontalSpacing(6);
  grid->setVerticalSpacing(4);
  grid->setColumnStretch(4, 1);
  const auto add = [&](int row, int at, const QString& label, QWidget* widget) {
    grid->addWidget(caption(label), row, at);
    grid->addWidget(widget, row, at + 1);
  };
  if (byRegion)
    add(0, 0, tr("over"),
        stageNumber(
            "border.ground", tr("Width of the borders"),
            {acre::limits::groundBorder, 0.5, false, false, tr("cells")},
            [](Biomes& b) { return &b.border.ground; },
            tr("Cells of ground over which regions blend; at most their size.")));
  else
    add(0, 0, tr("over"),
        stageNumber(
            "border.chart", tr("Width of the borders"),
            {acre::limits::chartBorder, 0.005, false, false, tr("of the chart")},
            [](Biomes& b) { return &b.border.chart; },
            tr("Share of the chart's width over which its rules blend.")));
  add(0, 2, tr("altitude"),
      stageNumber(
          "border.altitude", tr("Height of the passage between slices"),
          {acre::limits::soft, 0.5, false, false, tr("cells")},
          [](Biomes& b) { return &b.border.altitude; }, tr("Altitudes over which slices blend.")));
  add(1, 0, tr("coast"),
      stageNumber(
          "border.coast", tr("Altitude of the coast"),
          {acre::limits::soft, 0.5, false, false, tr("cells")}, [](Biomes& b) { return &b.coast; },
          tr("Raise and roughness grow from nothing at the sea to all over this.")));
  add(1, 2, tr("roughness"),
      stageNumber(
          "border.roughness", tr("Feature width of the roughness"),
          {acre::limits::width, 1, true, false, tr("cells")},
          [](Biomes& b) { return &b.roughness.width; },
          tr("Cells from one bump of rough ground to the next.")));
  column->addLayout(grid);
}

}  // namespace app
