#include "app/tiles/tiles_editor.h"

#include <QPainter>
#include <algorithm>

#include "app/edit/lists.h"
#include "app/edit/shape.h"
#include "app/edit/swatch.h"
#include "app/look/look.h"
#include "base/atomic_file.h"
#include "base/data_uri.h"
#include "output/tile_sheet.h"
#include "world/world.h"

namespace app {
namespace {

using acre::Recipe;
using acre::TileGroup;
using acre::TileSet;

constexpr int64_t kMostMeasured = 1024;       // Cells a side of what is counted.
constexpr uint64_t kMostEmbedded = 1u << 20;  // Bytes of a picture that a recipe takes in.

TileGroup* groupIn(Recipe& r, const std::string& id) {
  return withId(r.tiles->groups, id);
}
TileSet* setIn(Recipe& r, const std::string& id) {
  return withId(r.tiles->sets, id);
}
QString groupKey(const std::string& id) {
  return QStringLiteral("tiles.group.") + QString::fromStdString(id);
}
QString setKey(const std::string& id) {
  return QStringLiteral("tiles.set.") + QString::fromStdString(id);
}

/// A set drawn in the colours of a material.
TileSet setFor(const Recipe& r, const acre::Material* material) {
  TileSet out;
  out.id = acre::freshId("set", idsOf(r.tiles->sets));
  out.name = "Set " + std::to_string(r.tiles->sets.size() + 1);
  if (!material) return out;
  out.name = material->name;
  out.drawn.inside = material->colour;
  const auto darker = [](uint8_t v) { return static_cast<uint8_t>(v * 5 / 8); };
  out.drawn.edge = {
      darker(material->colour.red), darker(material->colour.green), darker(material->colour.blue)};
  return out;
}

/// The next material that no group names, and a set of its own.
void addFreshGroup(Recipe& r) {
  const acre::Material* free = nullptr;
  for (const acre::Material& material : r.materials) {
    const bool taken =
        std::any_of(r.tiles->groups.begin(), r.tiles->groups.end(), [&](const TileGroup& group) {
          return std::find(group.materials.begin(), group.materials.end(), material.id) !=
                 group.materials.end();
        });
    if (!taken && !free) free = &material;
  }
  if (!free) return;
  TileGroup group;
  group.id = acre::freshId("group", idsOf(r.tiles->groups));
  group.name = free->name;
  group.materials = {free->id};
  TileSet set = setFor(r, free);
  // Under the first there is nothing that its borders could be seen against.
  if (r.tiles->groups.empty()) set.method = acre::TileMethod::Plain;
  group.set = set.id;
  r.tiles->sets.push_back(std::move(set));
  r.tiles->groups.push_back(std::move(group));
}

acre::Rect partOf(const acre::Rect& cells) {
  return middlePart(cells, kMostMeasured);
}

}  // namespace

TilesEditor::TilesEditor(Document& document, QWidget* parent)
    : Editor(document, parent),
      inView_(this, document,
          {partOf, [](const acre::World& world) { return world.tiles().stage() != nullptr; },
              &TilesEditor::measure,
              [this](bool fresh) {
                showFigures();
                if (fresh) emit figuresChanged();
              }}) {
  followView(inView_);
  column_ = new QVBoxLayout(this);
  column_->setContentsMargins(16, 12, 16, 12);
  refresh();
}

std::optional<TilesEditor::Found> TilesEditor::measure(
    const acre::World& world, const acre::Rect& area, const std::stop_token& stop) {
  Found out;
  const acre::Recipe& recipe = planOf(world).recipe();
  const auto arts = acre::TileArts::of(world);
  auto figures = acre::tileFigures(world, arts ? &*arts : nullptr, area, stop);
  if (!figures) return {};
  out.figures = std::move(*figures);
  for (size_t k = 0; k < recipe.tiles->sets.size(); ++k) {
    const TileSet& set = recipe.tiles->sets[k];
    const std::string at = "/tiles/sets/" + std::to_string(k);
    auto art = acre::tileArtOf(set, recipe.folder, at);
    if (!art) {
      out.faults[set.id] = art.error().text();
      continue;
    }
    auto sheet = std::make_shared<SheetOfSet>();
    sheet->set = set;
    sheet->report = reportOn(set, *art);
    sheet->art = std::move(*art);
    for (const acre::TileGroupFigures& of : out.figures.groups) {
      if (of.set != set.id) continue;
      sheet->counts.resize(acre::TileCases::kMost);
      for (size_t n = 0; n < sheet->counts.size(); ++n) sheet->counts[n] += of.cases[n];
    }
    if (set.method == acre::TileMethod::Corners && !set.picture)
      for (const bool joined : {false, true}) {
        TileSet way = set;
        way.turns = acre::TileTurns::None;
        way.drawn.joined = joined;
        way.without.clear();
        if (const auto drawn = acre::tileArtOf(way, {}, at))
          for (const size_t n : {size_t{5}, size_t{10}})
            sheet->ways.push_back(imageOf(drawn->pictures[n], drawn->size));
      }
    out.sets[set.id] = std::move(sheet);
  }
  return out;
}

void TilesEditor::refresh() {
  const Recipe& r = document_.recipe();
  acre::Tiling shown = *r.tiles;  // Which pictures a set has asks for no other controls.
  std::string files;
  for (TileSet& set : shown.sets) {
    set.without.clear();
    if (!set.picture) continue;
    set.picture->order.clear();
    files += acre::shownFile(set.picture->file) + '\n';
  }
  const std::string shape = std::to_string(r.frame.x || r.frame.z) + kindName(r.frame.kind) +
                            shapeOf(shown) + namesOf(r.materials) + namesOf(r.tiles->groups) +
                            namesOf(r.tiles->sets) + files + opened_;
  if (shape != built_) {
    built_ = shape;
    rebuild();
  }
  refreshControls();
  if (isVisible()) inView_.refresh();
}

QString TilesEditor::figures() const {
  if (!inView_.found()) return {};
  const acre::TileFigures& found = inView_.found()->figures;
  if (found.cells == 0) return {};
  return tr("%1 cells in %2 ms")
      .arg(look::wholeNumber(found.cells), look::number(std::round(found.seconds * 1e4) / 10));
}

std::optional<acre::Cell> TilesEditor::hole() const {
  if (!inView_.found()) return {};
  for (const acre::TileGroupFigures& of : inView_.found()->figures.groups)
    if (of.firstUnmatched) return of.firstUnmatched;
  return {};
}

void TilesEditor::showFigures() {
  const auto& found = inView_.found();
  for (const auto& [id, label] : found_) {
    label->setEnabled(!inView_.measuring());
    const acre::TileGroupFigures* of = nullptr;
    if (found)
      for (const acre::TileGroupFigures& one : found->figures.groups)
        if (one.group == id) of = &one;
    if (!of) {
      label->setText(inView_.measuring() ? tr("Counting the view…") : QString());
      continue;
    }
    const auto cases =
        std::count_if(of->cases.begin(), of->cases.end(), [](int64_t n) { return n > 0; });
    const QString tiles = look::wholeNumber(of->tiles);
    QString text = cases == 0 ? tr("none in view")
                   : cases == 1
                       ? tr("%1 tiles in view, all of one case").arg(tiles)
                       : tr("%1 tiles in view, of %2 cases").arg(tiles, QString::number(cases));
    if (of->ambiguous > 0)
      text += tr(", %1 of opposite corners").arg(look::wholeNumber(of->ambiguous));
    if (of->unmatched > 0) {
      QStringList missing;
      for (const int n : of->unmatchedCases) missing << QString::number(n);
      text += tr(". %1 have no picture: case %2, first at %3, %4 (H)")
                  .arg(look::wholeNumber(of->unmatched), missing.join(QStringLiteral(", ")))
                  .arg(of->firstUnmatched->x)
                  .arg(of->firstUnmatched->z);
    }
    label->setText(text + '.');
  }
  if (!open_.sheet) return;
  std::shared_ptr<const SheetOfSet> sheet;
  QString fault;
  if (found) {
    if (const auto at = found->sets.find(opened_); at != found->sets.end()) sheet = at->second;
    if (const auto at = found->faults.find(opened_); at != found->faults.end())
      fault = QString::fromStdString(at->second);
  }
  open_.sheet->setVisible(sheet != nullptr);
  open_.board->setVisible(sheet != nullptr);
  open_.ways->setVisible(sheet && !sheet->ways.empty());
  if (!sheet) {
    open_.report->setText(fault.isEmpty() ? (inView_.measuring() ? tr("Looking at the set…")
                                                                 : tr("No view to look at yet."))
                                          : fault);
    return;
  }
  open_.sheet->show(sheet);
  open_.board->show(sheet);
  if (!sheet->ways.empty()) {
    constexpr int kSide = 48, kApart = 8, kWords = 15;
    QPixmap both(4 * kSide + 3 * kApart, kSide + kWords);
    both.fill(Qt::transparent);
    QPainter p(&both);
    p.setFont(look::font(look::Type::Caption));
    p.setPen(look::tokens().soft);
    for (int n = 0; n < 4; ++n) {
      const QRect box(n * (kSide + kApart), kWords, kSide, kSide);
      p.drawText(box.left(), kWords - 4,
          tr("%1 %2").arg(n % 2 == 0 ? 5 : 10).arg(n < 2 ? tr("cut") : tr("joined")));
      p.fillRect(box, look::tokens().sheet);
      p.drawImage(box, sheet->ways[static_cast<size_t>(n)]);
    }
    p.end();
    open_.ways->setPixmap(both);
  }
  QStringList lines;
  for (const std::string& sentence : sentencesOf(sheet->report))
    lines << QString::fromStdString(sentence);
  constexpr qsizetype kMostLines = 6;
  if (lines.size() > kMostLines) {
    const qsizetype more = lines.size() - kMostLines;
    lines = lines.mid(0, kMostLines);
    lines << tr("and %1 more").arg(more);
  }
  if (sheet->report.rims.empty() && sheet->report.variants.empty()) lines << tr("All rims meet.");
  open_.report->setText(lines.join('\n'));
}

// ---- controls ----------------------------------------------------------------------------------

void TilesEditor::rebuild() {
  found_.clear();
  open_ = {};
  QVBoxLayout* column = newBody(column_, 1);
  const acre::Tiling& tiling = *document_.recipe().tiles;
  if (!tiling.on) {
    addSwitch(column, tr("The tiles are switched off."), QStringLiteral("tiles.switch"),
        [this] { emit switchRequested(); });
    return column->addStretch(1);
  }
  if (tiling.groups.empty())
    column->addWidget(caption(
        tr("No tiles yet. A group of materials is drawn with a set of tiles, and its border "
           "lies over all groups below it, so that no gap opens between them."),
        true));
  for (const TileGroup& group : tiling.groups) addGroup(column, group);
  column->addSpacing(4);
  Row(column)
      .add(button(
          tr("+ Group"), QStringLiteral("tiles.addGroup"),
          tr("Adds a group for the next material that is in none, with a set drawn in its colour."),
          [](Recipe& r) { addFreshGroup(r); }, tr("Add group of tiles")))
      .add(button(
          tr("A group for each material"), QStringLiteral("tiles.addAll"),
          tr("Adds a group, and a drawn set, for every material that is in none."),
          [](Recipe& r) {
            for (size_t n = 0, most = r.materials.size(); n < most; ++n) addFreshGroup(r);
          },
          tr("Add groups of tiles")))
      .rest();
  section(column, tr("Sets"));
  if (tiling.sets.empty())
    column->addWidget(caption(
        tr("A set has a picture for each case of a border. The workbench draws one by itself; "
           "one from a picture is recognised by its rims."),
        true));
  for (const TileSet& set : tiling.sets) addSet(column, set);
  Row(column)
      .add(button(
          tr("+ Set"), QStringLiteral("tiles.addSet"), tr("Adds a set that the workbench draws."),
          [](Recipe& r) { r.tiles->sets.push_back(setFor(r, nullptr)); }, tr("Add set of tiles")))
      .rest();
  column->addStretch(1);
  showFigures();
}

void TilesEditor::moveGroup(const std::string& id, int by, const QString& step) {
  apply(step, [&](Recipe& r) { moveIn(r.tiles->groups, id, by); });
}

void TilesEditor::addGroup(QVBoxLayout* column, const TileGroup& group) {
  const std::string id = group.id;
  const auto made = form<TileGroup>(
      group, [id](Recipe& r) { return groupIn(r, id); }, groupKey(id), tr("a group of tiles"));
  if (column->count() > 0) {
    column->addSpacing(6);
    column->addWidget(ruleLine());
  }
  Row head(column);
  head.add(made.onTick(&TileGroup::on)).add(made.text(&TileGroup::name), 1);
  for (const auto& [text, name, tip, by] :
      {std::tuple("↑", "up", tr("Lower"), -1), std::tuple("↓", "down", tr("Higher"), 1)}) {
    auto* move = smallButton(QString::fromUtf8(text), made.named(name), tip);
    connect(move, &QToolButton::clicked, this,
        [this, id, by = by, tip = tip] { moveGroup(id, by, tr("%1 among the groups").arg(tip)); });
    head.add(move);
  }
  head.add(deleteButton(made.named("delete"), tr("Delete group of tiles"), [id](Recipe& r) {
    std::erase_if(r.tiles->groups, [&](const TileGroup& g) { return g.id == id; });
  }));
  Offered sets;
  for (const TileSet& set : document_.recipe().tiles->sets)
    sets.emplace_back(QString::fromStdString(set.name), set.id);
  Row(column).words(tr("drawn with")).add(made.choice(&TileGroup::set, sets), 1);
  const acre::Frame& frame = document_.recipe().frame;
  if (frame.x || frame.z || frame.kind == acre::WorldKind::Side)
    Row(column)
        .words(tr("beyond the bounds"))
        .add(made.choice(&TileGroup::rim, {tr("inside"), tr("outside"), tr("as the rim")}), 1);
  // Each material once, and one of the free ones more.
  std::vector<std::string> taken;
  for (const TileGroup& other : document_.recipe().tiles->groups)
    taken.insert(taken.end(), other.materials.begin(), other.materials.end());
  for (size_t n = 0; n < group.materials.size(); ++n) {
    const std::string material = group.materials[n];
    Offered offered;
    for (const acre::Material& m : document_.recipe().materials)
      if (m.id == material || std::find(taken.begin(), taken.end(), m.id) == taken.end())
        offered.emplace_back(QString::fromStdString(m.name), m.id);
    Row row(column);
    row.words(n == 0 ? tr("of") : tr("and"))
        .add(inked(bindChoice(
                 made.named("material") + QString::number(n), tr("Material of a group of tiles"),
                 tr("What it is drawn on."), offered,
                 [id, n](const Recipe& r) -> std::optional<std::string> {
                   const TileGroup* of = groupIn(const_cast<Recipe&>(r), id);  // Only looked at.
                   if (!of || n >= of->materials.size()) return {};
                   return of->materials[n];
                 },
                 [id, n](Recipe& r, const std::string& m) {
                   TileGroup* of = groupIn(r, id);
                   if (of && n < of->materials.size()) of->materials[n] = m;
                 })),
            1);
    if (group.materials.size() > 1)
      row.add(deleteButton(made.named("drop") + QString::number(n),
          tr("Take a material out of a group of tiles"), [id, n](Recipe& r) {
            TileGroup* of = groupIn(r, id);
            if (of && n < of->materials.size())
              of->materials.erase(of->materials.begin() + static_cast<ptrdiff_t>(n));
          }));
    if (n + 1 == group.materials.size() && taken.size() < document_.recipe().materials.size())
      row.add(button(
          tr("+"), made.named("addMaterial"), tr("One more material of the group."),
          [id, taken](Recipe& r) {
            TileGroup* of = groupIn(r, id);
            for (const acre::Material& m : r.materials)
              if (of && std::find(taken.begin(), taken.end(), m.id) == taken.end())
                return of->materials.push_back(m.id);
          },
          tr("Add material to a group of tiles")));
  }
  auto* found = caption({}, true);
  found->setObjectName(made.named("found"));
  column->addWidget(found);
  found_[id] = found;
}

void TilesEditor::addSet(QVBoxLayout* column, const TileSet& set) {
  const std::string id = set.id;
  const auto made = form<TileSet>(
      set, [id](Recipe& r) { return setIn(r, id); }, setKey(id), tr("a set of tiles"));
  const bool open = opened_ == id;
  auto* toggle = wordButton(open ? tr("Close") : tr("Open"), made.named("open"),
      tr("Shows all cases of the set, what is wrong with them, and a board to try them on."));
  connect(toggle, &QToolButton::clicked, this, [this, id] {
    opened_ = opened_ == id ? std::string() : id;
    refresh();
  });
  Row(column)
      .add(made.text(&TileSet::name), 1)
      .add(made.choice(
          &TileSet::method, {tr("corners"), tr("neighbours"), tr("sides"), tr("plain")}))
      .add(toggle)
      .add(deleteButton(made.named("delete"), tr("Delete set of tiles"), [id](Recipe& r) {
        std::erase_if(r.tiles->sets, [&](const TileSet& s) { return s.id == id; });
        std::erase_if(r.tiles->groups, [&](const TileGroup& g) { return g.set == id; });
      }));
  if (open) addSetForm(column, made, set);
}

void TilesEditor::addSetForm(QVBoxLayout* column, const Form<TileSet>& made, const TileSet& set) {
  const std::string id = set.id;
  Row(column)
      .words(tr("one drawing is laid"))
      .add(made.choice(&TileSet::turns,
               {tr("as it is"), tr("in quarter turns"), tr("in turns and mirrored")}),
          1);
  if (!set.picture) {
    const auto drawn = made.within<acre::TileDrawing>(
        set.drawn, [](TileSet& s) { return &s.drawn; }, made.named("drawn"));
    const auto colour = [&](const char* key, const QString& step,
                            acre::Colour acre::TileDrawing::*c) {
      return bindColour(
          drawn.named(key), step,
          [id, c](const Recipe& r) -> const acre::Colour* {
            const TileSet* of = setIn(const_cast<Recipe&>(r), id);  // Only looked at.
            return of ? &(of->drawn.*c) : nullptr;
          },
          [id, c](Recipe& r, const acre::Colour& value) {
            if (TileSet* of = setIn(r, id)) of->drawn.*c = value;
          });
    };
    Row look(column);
    look.words(tr("ground"))
        .add(colour("inside", tr("Ground of a set of tiles"), &acre::TileDrawing::inside))
        .words(tr("edge"))
        .add(colour("edge", tr("Edge of a set of tiles"), &acre::TileDrawing::edge))
        .add(
            drawn.choice(&acre::TileDrawing::style, {tr("straight"), tr("round"), tr("rough")}), 1);
    if (set.method == acre::TileMethod::Corners)
      Row(column).add(drawn.tick(&acre::TileDrawing::joined, tr("opposite corners joined")));
    drawn.numbers(column, kNumbersAcross, &acre::TileDrawing::size, &acre::TileDrawing::width);
  } else {
    column->addWidget(caption(QString::fromStdString(acre::shownFile(set.picture->file)), true));
    const auto picture = made.within<acre::TilePicture>(
        *set.picture, [](TileSet& s) { return s.picture ? &*s.picture : nullptr; },
        made.named("picture"));
    picture.numbers(column, kNumbersAcross, &acre::TilePicture::columns, &acre::TilePicture::cell);
    Row(column)
        .words(tr("larger tiles lie"))
        .add(picture.choice(&acre::TilePicture::anchor,
                 {tr("from the upper left corner"), tr("about the middle")}),
            1);
  }
  addWeights(column, made, set);
  Row files(column);
  const auto file = [&](const QString& words, const char* key, const QString& tip, bool reads) {
    auto* one = wordButton(words, made.named(key), tip);
    connect(one, &QToolButton::clicked, this,
        [this, id, reads] { emit pictureRequested(QString::fromStdString(id), reads); });
    files.add(one);
  };
  file(tr("Picture…"), "read",
      tr("Takes the tiles from a PNG: which is which is told from their rims and corners."), true);
  file(tr("Template…"), "write",
      tr("Writes the set as a PNG to be painted over, and one with numbers beside it."), false);
  files.rest();
  Row other(column);
  if (set.picture)
    other.add(button(
        tr("Draw it instead"), made.named("draw"), tr("The workbench draws the set again."),
        [id](Recipe& r) {
          if (TileSet* of = setIn(r, id)) of->picture.reset();
        },
        tr("Draw a set of tiles")));
  if (set.picture && !acre::isDataUri(set.picture->file)) {
    auto* keep = wordButton(tr("Keep within"), made.named("embed"),
        tr("Puts the picture itself into the recipe, so that it needs no file beside it."));
    connect(keep, &QToolButton::clicked, this, [this, id] { embedPicture(id); });
    other.add(keep);
  }
  other.rest();

  open_.report = caption({}, true);
  open_.report->setObjectName(made.named("report"));
  open_.sheet = new SetSheet;
  open_.sheet->setObjectName(made.named("sheet"));
  open_.board = new TrialBoard;
  open_.board->setObjectName(made.named("board"));
  open_.ways = caption({});
  connect(open_.sheet, &SetSheet::leftOut, this, [this, id](int number) {
    apply(tr("Leave a tile out"), [&](Recipe& r) {
      TileSet* of = setIn(r, id);
      if (!of) return;
      const int drawing = acre::TileCases(of->method, of->turns).drawingOf(number);
      if (std::erase(of->without, drawing) == 0) of->without.push_back(drawing);
    });
  });
  column->addWidget(open_.sheet);
  column->addWidget(open_.ways);
  column->addWidget(open_.report);
  Row tools(column);
  tools.words(tr("Trial board"));
  const auto tool = [&](const QString& words, const char* key, const QString& tip, auto act) {
    auto* one = wordButton(words, made.named(key), tip);
    connect(one, &QToolButton::clicked, open_.board, act);
    tools.add(one);
  };
  tool(tr("Random"), "random", tr("Fills the board at random."), &TrialBoard::fillAtRandom);
  tool(tr("Every case"), "every", tr("A board on which every case lies somewhere."),
      &TrialBoard::showEveryCase);
  tool(tr("Clear"), "clear", tr("Nothing inside."), &TrialBoard::clear);
  tools.rest();
  column->addWidget(open_.board);
  column->addSpacing(6);
}

void TilesEditor::addWeights(QVBoxLayout* column, const Form<TileSet>& made, const TileSet& set) {
  const std::string id = set.id;
  Row row(column);
  row.words(tr("variants"));
  for (size_t n = 0; n < set.weights.size() && n < 4; ++n) {
    const QString key = QStringLiteral("weight%1").arg(n);
    row.add(bindNumber({acre::limits::tileWeight, 1, true, false, {}},
                made.named("weights") + '.' + key, tr("Weight of a variant of a set of tiles"),
                {[id, n](const Recipe& r) -> std::optional<double> {
                   const TileSet* of = setIn(const_cast<Recipe&>(r), id);  // Only looked at.
                   if (!of || n >= of->weights.size()) return {};
                   return of->weights[n];
                 },
                    [id, n](Recipe& r, double v) {
                      TileSet* of = setIn(r, id);
                      if (of && n < of->weights.size())
                        of->weights[n] = static_cast<int32_t>(std::lround(v));
                    }},
                tr("How often variant %1 is drawn, in relation to the others.").arg(n + 1)),
        48);
  }
  if (set.weights.size() < 4)
    row.add(button(
        tr("+"), made.named("addVariant"), tr("One more picture for every case."),
        [id](Recipe& r) {
          if (TileSet* of = setIn(r, id)) of->weights.push_back(1);
        },
        tr("Add variant to a set of tiles")));
  if (set.weights.size() > 1)
    row.add(deleteButton(
        made.named("dropVariant"), tr("Drop a variant of a set of tiles"), [id](Recipe& r) {
          if (TileSet* of = setIn(r, id); of && of->weights.size() > 1) of->weights.pop_back();
        }));
  row.rest();
}

void TilesEditor::showPointer(const std::string& pointer) {
  // A set is opened, a group has its controls there anyway.
  const std::string stem = "/tiles/sets/";
  const Recipe& r = document_.recipe();
  if (pointer.starts_with(stem)) {
    const auto n = static_cast<size_t>(std::atoll(pointer.c_str() + stem.size()));
    if (n < r.tiles->sets.size() && opened_ != r.tiles->sets[n].id) {
      opened_ = r.tiles->sets[n].id;
      refresh();
    }
  }
  Editor::showPointer(pointer);
}

// ---- files -------------------------------------------------------------------------------------

void TilesEditor::readPicture(const QString& set, const QString& file) {
  const std::string id = set.toStdString();
  const TileSet* of = withId(document_.recipe().tiles->sets, id);
  if (!of) return;
  const std::filesystem::path path(file.toStdString());
  // As many columns as make the tiles square and enough of them.
  const acre::TileCases cases(of->method, of->turns);
  std::optional<acre::TileArt> tiles;
  int columns = 0;
  std::string fault;
  std::vector<int> tried = {
      of->picture ? of->picture->columns : 8, 8, 4, 1, 2, 3, 5, 6, 7, 9, 10, 12, 14, 15, 16, 47};
  for (const int across : tried) {
    auto made = acre::tilesIn(path.string(), {}, across, "picture");
    if (!made) {
      if (fault.empty()) fault = made.error().text();
      continue;
    }
    if (static_cast<int>(made->pictures.size()) < cases.drawings()) continue;
    tiles = std::move(*made);
    columns = across;
    break;
  }
  if (!tiles)
    return emit refused(fault.empty()
                            ? tr("The picture holds fewer than %1 tiles.").arg(cases.drawings())
                            : QString::fromStdString(fault));
  std::vector<int32_t> order;
  size_t unsure = 0;
  if (of->method != acre::TileMethod::Plain) {
    const int variants = mostVariants(*of);
    const auto guesses = guessed(*tiles, of->method, variants);
    order = orderOf(guesses, of->method, of->turns, variants);
    for (const auto& guess : guesses) unsure += guess && !guess->sure;
  }
  std::error_code none;
  const auto shorter = std::filesystem::relative(path, document_.recipe().folder, none);
  const bool saved = !document_.recipe().folder.empty() && !none && !shorter.empty();
  apply(tr("Tiles from a picture"), [&](Recipe& r) {
    TileSet* one = setIn(r, id);
    if (!one) return;
    one->picture = acre::TilePicture{
        saved ? shorter.string() : path.string(), columns, 0, acre::TileAnchor::Centre, order};
    one->without.clear();
  });
  opened_ = id;
  refresh();
  emit told(unsure == 0
                ? tr("All tiles were recognised.")
                : tr("%1 tiles were not recognised surely: look at the sheet.").arg(unsure));
}

void TilesEditor::embedPicture(const std::string& id) {
  const TileSet* of = withId(document_.recipe().tiles->sets, id);
  if (!of || !of->picture) return;
  const auto bytes = acre::readWholeFile(
      std::filesystem::path(document_.recipe().folder) / of->picture->file, kMostEmbedded);
  if (!bytes) return emit refused(QString::fromStdString(bytes.error().text()));
  apply(tr("Keep a picture within"), [&](Recipe& r) {
    TileSet* one = setIn(r, id);
    if (one && one->picture) one->picture->file = acre::dataUri("image/png", *bytes);
  });
}

void TilesEditor::writePicture(const QString& set, const QString& file) {
  const std::string id = set.toStdString();
  const TileSet* of = withId(document_.recipe().tiles->sets, id);
  if (!of) return;
  const auto art = acre::tileArtOf(*of, document_.recipe().folder, "/tiles/sets");
  if (!art) return emit refused(QString::fromStdString(art.error().text()));
  std::filesystem::path path(file.toStdString());
  if (path.extension().empty()) path += ".png";
  std::filesystem::path numbers = path;
  numbers.replace_filename(path.stem().string() + "-numbers.png");
  for (const auto& [to, plan] : {std::pair(path, acre::TileSheetPlan{8, 1, false, false, false}),
           std::pair(numbers, acre::TileSheetPlan{8, 2, true, true, false})})
    if (const auto written = writeRgba(tileSheet(*of, *art, plan), to); !written)
      return emit refused(QString::fromStdString(written.error().text()));
  emit told(tr("Written: %1, and %2 with the numbers.")
                .arg(QString::fromStdString(path.filename().string()),
                    QString::fromStdString(numbers.filename().string())));
}

}  // namespace app

#include "moc_tiles_editor.cpp"
