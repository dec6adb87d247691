#include "app/level/level_editor.h"

#include <QGridLayout>
#include <algorithm>
#include <cmath>

#include "app/edit/lists.h"
#include "app/edit/shape.h"
#include "app/look/look.h"
#include "app/window/notice.h"
#include "cave/level_stage.h"

namespace app {
namespace {

using acre::Level;
using acre::LevelPlace;
using acre::LevelProcess;
using acre::Recipe;

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
  const Recipe& r = document_.recipe();
  const std::string shape = shapeOf(*r.level) + namesOf(r.materials) + namesOf(r.level->places) +
                            namesOf(r.level->processes);
  if (shape != built_) {
    built_ = shape;
    rebuild();
  }
  refreshControls();
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
  document_.engine().executor().submit(acre::Priority::Statistics, stop_.get_token(),
      [courier = courier_, world, stop = stop_.get_token()] {
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
    section(column, tr("Places that must be there"));
    for (const LevelPlace& place : level.places) addPlace(column, place);
    const auto newPlace = [](Recipe& r) {
      LevelPlace place;
      place.id = acre::freshId("place", idsOf(r.level->places));
      place.name = r.level->places.empty() ? "Start" : "Goal";
      place.material = acre::kUnassignedId;
      if (!r.level->places.empty()) place.from = r.level->places.front().id;
      r.level->places.push_back(place);
    };
    Row(column)
        .add(button(tr("Add place"), QStringLiteral("level.addPlace"),
            tr("Exactly once on every floor, on an open cell, reached from the first."), newPlace))
        .rest();
  }
  column->addStretch(1);
  showFigures();
}

void LevelEditor::addFloor(QVBoxLayout* column) {
  const Place<Level> place = [](Recipe& r) { return &*r.level; };
  const auto level =
      form<Level>(*document_.recipe().level, place, QStringLiteral("level"), tr("the level"));
  // Two numbers stand under one key.
  const auto end = [&](int Level::*member, const char* name) {
    Number number = declared<Level>(*document_.recipe().level, place, member);
    number.key = QLatin1String(name);
    return bindNumber(level.key(), tr("the level"), number);
  };
  Row(column)
      .add(new QLabel(tr("Floor")))
      .add(level.number(&Level::floor))
      .words(tr("of"))
      .add(end(&Level::firstFloor, "first"))
      .words(tr("to"))
      .add(end(&Level::lastFloor, "last"))
      .rest();
  Row(column)
      .add(new QLabel(tr("Margin")))
      .add(level.number(&Level::margin))
      .space(12)
      .words(tr("height of walls"))
      .add(level.number(&Level::walls))
      .rest();
  Row(column).add(new QLabel(tr("Open cells are of"))).add(level.material(&Level::open), 1);
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

void LevelEditor::addPlace(QVBoxLayout* column, const LevelPlace& place) {
  const std::string id = place.id;
  const auto made = form<LevelPlace>(
      place, [id](Recipe& r) { return withId(r.level->places, id); }, placeKey(id), tr("a place"));
  const auto remove = [id](Recipe& r) {
    std::erase_if(r.level->places, [&](auto& p) { return p.id == id; });
    for (LevelPlace& p : r.level->places)
      if (p.from == id) p.from.clear();
  };
  column->addSpacing(2);
  Row(column)
      .add(made.text(&LevelPlace::name), 1)
      .add(made.material(&LevelPlace::material, {{tr("as open cells"), acre::kUnassignedId}}), 1)
      .add(deleteButton(made.named("delete"), tr("Delete place"), remove));
  auto* mark = made.text(&LevelPlace::mark);
  mark->setMaxLength(1);
  mark->setFixedWidth(30);
  Offered before = {{tr("nowhere"), {}}};
  for (const LevelPlace& other : document_.recipe().level->places) {
    if (other.id == id) break;
    before.emplace_back(QString::fromStdString(other.name), other.id);
  }
  Row(column)
      .words(tr("on the mark"))
      .add(mark)
      .words(tr("steps from"))
      .add(made.choice(&LevelPlace::from, before), 1)
      .add(made.tick(&LevelPlace::reachable, tr("reached")));
  if (place.from.empty())
    made.numbers(column, 3, &LevelPlace::clear);
  else
    made.numbers(column, 3, &LevelPlace::clear, &LevelPlace::least, &LevelPlace::most);
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
      {tr("+ Open spaces"), "spaces", "Ways between", acre::LevelSpaces{}},
      {tr("+ Courses"), "courses", "Brooks", acre::LevelCourses{}}};
  int n = 0;
  for (const Kind& kind : kinds) {
    const auto add = [kind](Recipe& r) {
      r.level->processes.push_back(
          {acre::freshId(kind.stem, idsOf(r.level->processes)), kind.name, true, kind.what});
    };
    grid->addWidget(button(kind.text, QStringLiteral("level.add.") + QLatin1String(kind.stem), {},
                        add, tr("Add process")),
        n / 3, n % 3);
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

#include "moc_level_editor.cpp"
