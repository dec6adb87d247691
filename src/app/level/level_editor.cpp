#include "app/level/level_editor.h"

#include <QFrame>
#include <QGridLayout>
#include <QLineEdit>
#include <QPushButton>
#include <algorithm>
#include <cmath>

#include "app/edit/lists.h"
#include "app/look/look.h"
#include "app/window/notice.h"
#include "cave/level_stage.h"

namespace app {
namespace {

using acre::Level;
using acre::LevelPlace;
using acre::LevelProcess;
using acre::Recipe;

/// Everything that changes which rows there are, or what their choices and texts offer.
std::string shapeOf(const Recipe& r) {
  const Level& l = *r.level;
  std::string out = r.frame.kind == acre::WorldKind::Level ? "level" : "other";
  out += l.on ? "+" : "-";
  for (const acre::Material& m : r.materials) out += "|" + m.id + m.name;
  for (const LevelProcess& p : l.processes) {
    out += "/" + p.id + p.name + (p.on ? "1" : "0") + std::to_string(p.what.index());
    if (const auto* a = std::get_if<acre::FilledAutomaton>(&p.what))
      out += a->rule + std::to_string(static_cast<int>(a->edge)) + (a->refill ? "r" : "k");
    if (const auto* w = std::get_if<acre::NoiseWalls>(&p.what)) out += w->refill ? "r" : "k";
    if (const auto* b = std::get_if<acre::LevelBody>(&p.what)) out += b->round ? "o" : "q";
    if (const auto* s = std::get_if<acre::LevelSpaces>(&p.what)) out += s->join ? "j" : "l";
    if (const auto* rooms = std::get_if<acre::LevelRooms>(&p.what)) {
      out += rooms->turn ? "t" : "u";
      for (const auto& piece : rooms->pieces) out += piece.id + piece.text + ">" + piece.file;
    }
  }
  for (const LevelPlace& p : l.places)
    out += "/" + p.id + p.name + p.material + p.mark + p.from + (p.reachable ? "1" : "0");
  return out + l.open;
}

QString placeKey(const std::string& id) {
  return QStringLiteral("level.place.") + QString::fromStdString(id);
}

}  // namespace

LevelEditor::LevelEditor(Document& document, QWidget* parent)
    : Editor(document, parent), courier_(std::make_shared<Courier<LevelEditor>>(this)) {
  column_ = new QVBoxLayout(this);
  column_->setContentsMargins(16, 12, 16, 12);
  refresh();
}

LevelEditor::~LevelEditor() {
  courier_->close();
  stop_.request_stop();
}

void LevelEditor::refresh() {
  if (const std::string shape = shapeOf(document_.recipe()); shape != built_) {
    built_ = shape;
    rebuild();
  }
  refreshNumbers();
  worldChanged();
}

// ---- what the floor is like --------------------------------------------------------------------

void LevelEditor::worldChanged() {
  const auto& world = document_.world();
  if (measured_ == world) return showFigures();
  stop_.request_stop();
  stop_ = {};
  measured_ = world;
  measuring_ = planOf(*world).level() != nullptr;
  if (!measuring_) {
    figures_.reset();
    faults_.clear();
    return showFigures();
  }
  document_.engine().executor().submit(
      acre::Priority::Statistics, [courier = courier_, world, stop = stop_.get_token()] {
        if (stop.stop_requested()) return;
        const acre::BitGrid plane = acre::planeOf(*world);
        const acre::LevelFloor& floor = planOf(*world).level()->floor();
        auto figures = acre::figuresOf(floor, plane);
        auto faults = acre::faultsOf(*planOf(*world).recipe().level, floor, plane);
        courier->deliver([stop, figures, faults = std::move(faults)](LevelEditor& self) {
          if (stop.stop_requested()) return;
          self.measuring_ = false;
          self.figures_ = figures;
          self.faults_ = faults;
          self.showFigures();
          emit self.figuresChanged();
        });
      });
  showFigures();
}

QString LevelEditor::figures() const {
  if (!figures_) return {};
  return tr("%1 open, %2 piece%3, margin %4")
      .arg(look::percent(figures_->open))
      .arg(figures_->pieces)
      .arg(figures_->pieces == 1 ? QString() : tr("s"))
      .arg(figures_->margin);
}

void LevelEditor::showFigures() {
  if (!state_) return;
  state_->setEnabled(!measuring_);
  if (!figures_) {
    state_->setText(measuring_ ? tr("Measuring the floor…") : QString());
    lacking_->hide();
    return;
  }
  const acre::LevelFigures& f = *figures_;
  const auto whole = [](uint64_t n) { return look::wholeNumber(static_cast<qint64>(n)); };
  QString text =
      tr("Floor %1: %2 of %3 × %4 cells open in %5 piece%6, an outline of %7 sides. "
         "%8 cells stay solid at the edge, %9 are asked for.")
          .arg(f.floor)
          .arg(look::percent(f.open))
          .arg(f.width)
          .arg(f.length)
          .arg(f.pieces)
          .arg(f.pieces == 1 ? QString() : tr("s"))
          .arg(whole(f.outline))
          .arg(f.margin)
          .arg(document_.recipe().level->margin);
  if (f.rooms > 0) text += tr(" %1 room%2.").arg(f.rooms).arg(f.rooms == 1 ? QString() : tr("s"));
  if (f.dug > 0) text += tr(" %1 cells dug to connect.").arg(whole(f.dug));
  if (f.visited.all > 0)
    text += tr(" The outline looked at %1 cells of %2 that all its steps have.")
                .arg(whole(f.visited.cells), whole(f.visited.all));
  state_->setText(text);
  QStringList words;
  for (const std::string& fault : faults_) words << QString::fromStdString(fault);
  warning_->setText(words.join(QLatin1Char('\n')));
  lacking_->setVisible(!words.isEmpty());
}

// ---- building ----------------------------------------------------------------------------------

void LevelEditor::rebuild() {
  state_ = warning_ = nullptr;
  lacking_ = nullptr;
  QVBoxLayout* column = newBody(column_, 1);
  const Level& level = *document_.recipe().level;
  if (!level.on) {
    addSwitch(column, tr("The level is switched off: the map shows its rock alone."),
        QStringLiteral("level.switch"), [this] { emit switchRequested(); });
  } else {
    addFloor(column);
    column->addWidget(ruleLine());
    column->addWidget(heading(tr("Processes, in order")));
    if (level.processes.empty()) {
      auto* none =
          new QLabel(tr("No process yet: all of the floor is solid. Add noise walls, an "
                        "automaton or walks, then rooms, and join the spaces."));
      none->setWordWrap(true);
      column->addWidget(none);
    }
    for (const LevelProcess& process : level.processes) addProcess(column, process);
    addButtons(column);
    column->addSpacing(6);
    column->addWidget(ruleLine());
    column->addWidget(heading(tr("Places that must be there")));
    for (const LevelPlace& place : level.places) addPlace(column, place);
    auto* add = new QPushButton(tr("Add place"));
    add->setObjectName(QStringLiteral("level.addPlace"));
    add->setToolTip(tr("Exactly once on every floor, on an open cell, reached from the first."));
    connect(add, &QPushButton::clicked, this, [this] {
      apply(tr("Add place"), [](Recipe& r) {
        LevelPlace place;
        place.id = acre::freshId("place", idsOf(r.level->places));
        place.name = r.level->places.empty() ? "Start" : "Goal";
        place.material = acre::kUnassignedId;
        if (!r.level->places.empty()) place.from = r.level->places.front().id;
        r.level->places.push_back(place);
      });
    });
    auto* row = new QHBoxLayout;
    row->addWidget(add);
    row->addStretch(1);
    column->addLayout(row);
  }
  column->addStretch(1);
  showFigures();
}

void LevelEditor::addFloor(QVBoxLayout* column) {
  const Place<Level> place = [](Recipe& r) { return &*r.level; };
  // name: where two numbers stand under one key.
  const auto declaredOf = [&](QHBoxLayout* row, QLabel* label, int Level::*member,
                              const char* name = nullptr) {
    Number number = declared<Level>(*document_.recipe().level, place, member);
    if (name) number.key = QLatin1String(name);
    row->addWidget(label);
    row->addWidget(bindNumber(QStringLiteral("level"), tr("the level"), number));
  };
  auto* row = new QHBoxLayout;
  row->setSpacing(5);
  declaredOf(row, new QLabel(tr("Floor")), &Level::floor);
  declaredOf(row, caption(tr("of")), &Level::firstFloor, "first");
  declaredOf(row, caption(tr("to")), &Level::lastFloor, "last");
  row->addStretch(1);
  column->addLayout(row);
  auto* edge = new QHBoxLayout;
  edge->setSpacing(5);
  declaredOf(edge, new QLabel(tr("Margin")), &Level::margin);
  edge->addSpacing(12);
  declaredOf(edge, caption(tr("height of walls")), &Level::walls);
  edge->addStretch(1);
  column->addLayout(edge);
  auto* open = new QHBoxLayout;
  open->setSpacing(5);
  open->addWidget(new QLabel(tr("Open cells are of")));
  open->addWidget(materialChoice(QStringLiteral("level.open"), tr("Material of open cells"),
                      document_.recipe().level->open, {},
                      [](Recipe& r, const std::string& m) { r.level->open = m; }),
      1);
  column->addLayout(open);
  state_ = caption({});
  state_->setObjectName(QStringLiteral("level.state"));
  state_->setWordWrap(true);
  column->addWidget(state_);
  lacking_ = new QWidget;
  auto* lacks = new QHBoxLayout(lacking_);
  lacks->setContentsMargins(0, 0, 0, 0);
  lacks->addWidget(new WarningMark, 0, Qt::AlignTop);
  warning_ = new QLabel;
  warning_->setObjectName(QStringLiteral("level.warning"));
  warning_->setWordWrap(true);
  lacks->addWidget(warning_, 1);
  column->addWidget(lacking_);
}

QHBoxLayout* LevelEditor::headOf(
    const QString& key, const std::string& id, const std::string& name, const QString& what) {
  auto* row = new QHBoxLayout;
  row->setSpacing(5);
  auto* edit = new QLineEdit(QString::fromStdString(name));
  edit->setObjectName(key + QStringLiteral(".name"));
  edit->setAccessibleName(tr("Name of %1").arg(what));
  edit->setMaxLength(100);
  const bool place = key.startsWith(QLatin1String("level.place."));
  connect(edit, &QLineEdit::editingFinished, this, [this, edit, id, place] {
    const std::string text = edit->text().toStdString();
    const Level& now = *document_.recipe().level;
    const auto* p = place ? nullptr : withId(now.processes, id);
    const auto* q = place ? withId(now.places, id) : nullptr;
    if ((p && p->name != text) || (q && q->name != text)) {
      if (place)
        editPlace(tr("Name of a place"), id, [&](LevelPlace& one) { one.name = text; });
      else
        editProcess(tr("Name of a process"), id, [&](Process& one) { one.name = text; });
    }
  });
  row->addWidget(edit, 1);
  return row;
}

void LevelEditor::editProcess(
    const QString& step, const std::string& id, const std::function<void(Process&)>& change) {
  apply(step, [&](Recipe& r) {
    if (Process* p = withId(r.level->processes, id)) change(*p);
  });
}

void LevelEditor::editPlace(
    const QString& step, const std::string& id, const std::function<void(LevelPlace&)>& change) {
  apply(step, [&](Recipe& r) {
    if (LevelPlace* p = withId(r.level->places, id)) change(*p);
  });
}

void LevelEditor::addPlace(QVBoxLayout* column, const LevelPlace& place) {
  const std::string id = place.id;
  const QString key = placeKey(id);
  auto* head = headOf(key, id, place.name, tr("a place"));
  head->addWidget(materialChoice(key + QStringLiteral(".material"), tr("Material of a place"),
                      place.material, {{tr("as open cells"), acre::kUnassignedId}},
                      [id](Recipe& r, const std::string& m) {
                        if (auto* p = withId(r.level->places, id)) p->material = m;
                      }),
      1);
  head->addWidget(
      deleteButton(key + QStringLiteral(".delete"), tr("Delete place"), [id](Recipe& r) {
        std::erase_if(r.level->places, [&](auto& p) { return p.id == id; });
        for (LevelPlace& p : r.level->places)
          if (p.from == id) p.from.clear();
      }));
  column->addSpacing(2);
  column->addLayout(head);
  auto* row = new QHBoxLayout;
  row->setSpacing(5);
  row->addWidget(caption(tr("on the mark")));
  auto* mark = new QLineEdit(QString::fromStdString(place.mark));
  mark->setObjectName(key + QStringLiteral(".mark"));
  mark->setAccessibleName(tr("Mark of rooms that the place lies on"));
  mark->setToolTip(tr("A letter or digit of a room's text; empty: any open cell."));
  mark->setMaxLength(1);
  mark->setFixedWidth(30);
  connect(mark, &QLineEdit::editingFinished, this, [this, mark, id] {
    const auto* now = withId(document_.recipe().level->places, id);
    const std::string text = mark->text().toStdString();
    if (now && now->mark != text)
      editPlace(tr("Mark of a place"), id, [&](LevelPlace& p) { p.mark = text; });
  });
  row->addWidget(mark);
  const auto& places = document_.recipe().level->places;
  row->addWidget(caption(tr("steps from")));
  auto* from = new Choice;
  from->setObjectName(key + QStringLiteral(".from"));
  from->setAccessibleName(tr("Where the steps are counted from"));
  from->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
  from->setMinimumContentsLength(7);
  from->addItem(tr("nowhere"), QString());
  for (const LevelPlace& other : places) {
    if (other.id == id) break;
    from->addItem(QString::fromStdString(other.name), QString::fromStdString(other.id));
  }
  from->setCurrentIndex(from->findData(QString::fromStdString(place.from)));
  connect(from, &Choice::activated, this, [this, from, id] {
    const std::string chosen = from->currentData().toString().toStdString();
    editPlace(tr("Steps to a place"), id, [&](LevelPlace& p) { p.from = chosen; });
  });
  row->addWidget(from, 1);
  auto* reachable = new Tick(tr("reached"));
  reachable->setObjectName(key + QStringLiteral(".reachable"));
  reachable->setToolTip(tr("On foot from the first place."));
  reachable->setChecked(place.reachable);
  connect(reachable, &Tick::toggled, this, [this, id](bool now) {
    editPlace(tr("A place reached"), id, [now](LevelPlace& p) { p.reachable = now; });
  });
  row->addWidget(reachable);
  column->addLayout(row);
  const Place<LevelPlace> at = [id](Recipe& r) { return withId(r.level->places, id); };
  std::vector<Number> numbers = {declared<LevelPlace>(place, at, &LevelPlace::clear)};
  if (!place.from.empty())
    for (const auto member : {&LevelPlace::least, &LevelPlace::most})
      numbers.push_back(declared<LevelPlace>(place, at, member));
  addNumbers(column, key, tr("a place"), numbers, 3);
}

void LevelEditor::addButtons(QVBoxLayout* column) {
  auto* grid = new QGridLayout;
  grid->setHorizontalSpacing(5);
  grid->setVerticalSpacing(4);
  struct Kind {
    QString text;
    const char* stem;
    const char* name;
    decltype(LevelProcess::what) what;
  };
  acre::NoiseWalls walls;
  walls.band.noise.width = 18;
  walls.band.low = 0.1;
  walls.band.high = 2;
  acre::LevelRooms rooms;
  rooms.pieces = {{"room-1", "#######\n#.....#\n#......\n#.....#\n#######\n", {}}};
  const Kind kinds[] = {{tr("+ Noise walls"), "walls", "Walls", walls},
      {tr("+ Automaton"), "automaton", "Caverns", acre::FilledAutomaton{}},
      {tr("+ Walks"), "walks", "Headings", acre::DiggingWalks{}},
      {tr("+ Outline"), "outline", "Outline", acre::LevelBody{}},
      {tr("+ Rooms"), "rooms", "Rooms", rooms},
      {tr("+ Open spaces"), "spaces", "Ways between", acre::LevelSpaces{}}};
  int n = 0;
  for (const Kind& kind : kinds) {
    auto* add = new QPushButton(kind.text);
    add->setObjectName(QStringLiteral("level.add.") + QLatin1String(kind.stem));
    connect(add, &QPushButton::clicked, this, [this, kind] {
      apply(tr("Add process"), [&](Recipe& r) {
        LevelProcess process;
        process.id = acre::freshId(kind.stem, idsOf(r.level->processes));
        process.name = kind.name;
        process.what = kind.what;
        r.level->processes.push_back(process);
      });
    });
    grid->addWidget(add, n / 3, n % 3);
    ++n;
  }
  column->addLayout(grid);
}

void LevelEditor::showPointer(const std::string& pointer) {
  // "/level/LIST/INDEX/KEY".
  const QStringList parts = QString::fromStdString(pointer).split(QLatin1Char('/'));
  const Level& level = *document_.recipe().level;
  QString name = QStringLiteral("level.floor");
  if (parts.size() == 3) name = QStringLiteral("level.") + parts[2];
  if (parts.size() > 3) {
    const auto index = static_cast<size_t>(parts[3].toUInt());
    if (parts[2] == QLatin1String("places") && index < level.places.size())
      name = placeKey(level.places[index].id);
    else if (index < level.processes.size())
      name = QStringLiteral("level.") + QString::fromStdString(level.processes[index].id);
  }
  const QString key = parts.size() > 4 ? parts[4] : QString();
  for (const QString& end : {QLatin1Char('.') + key, QStringLiteral(".name"), QString()})
    if (auto* field = findChild<QWidget*>(name + end)) return field->setFocus();
}

}  // namespace app
