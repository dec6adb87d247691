// Controls of one process of a level: what LevelEditor says of each kind.
#include <QFontMetrics>
#include <algorithm>
#include <cmath>
#include <filesystem>

#include "app/edit/lists.h"
#include "app/edit/swatch.h"
#include "app/level/level_editor.h"
#include "app/look/look.h"
#include "recipe/automaton_rule.h"
#include "recipe/cave_recipe.h"
#include "recipe/object_recipe.h"

namespace app {
namespace {

using acre::Amount;
using acre::Recipe;

/// A member that is a number, or an amount by floor.
template <class T>
using NumberOf = std::variant<double T::*, int T::*, Amount T::*>;

/// What a process is made of; nullptr when it is gone, or of another kind.
template <class T>
T* partOf(Recipe& r, const std::string& id) {
  auto* process = withId(r.level->processes, id);
  return process ? std::get_if<T>(&process->what) : nullptr;
}

QString keyOf(const std::string& id) {
  return QStringLiteral("level.") + QString::fromStdString(id);
}

QString wordOf(const acre::LevelProcess& process) {
  const QString words[] = {QObject::tr("noise walls"), QObject::tr("automaton"),
      QObject::tr("walks"), QObject::tr("outline"), QObject::tr("rooms"),
      QObject::tr("open spaces"), QObject::tr("courses")};
  return words[process.what.index()];
}

}  // namespace

auto LevelEditor::numbersOf(const Process& process) const -> std::vector<Number> {
  std::vector<Number> out;
  const auto add = [&]<class T>(const T& now,
                       std::initializer_list<NumberOf<std::type_identity_t<T>>> members) {
    const Place<T> place = [id = process.id](Recipe& r) { return partOf<T>(r, id); };
    for (const NumberOf<T>& member : members)
      std::visit(
          [&](auto which) {
            if constexpr (std::is_same_v<decltype(which), Amount T::*>)
              for (Number& number : declaredAmount<T>(now, place, which))
                out.push_back(std::move(number));
            else
              out.push_back(declared<T>(now, place, which));
          },
          member);
  };
  if (const auto* walls = std::get_if<acre::NoiseWalls>(&process.what)) {
    const Place<acre::NoiseBand> band = [id = process.id](Recipe& r) -> acre::NoiseBand* {
      auto* part = partOf<acre::NoiseWalls>(r, id);
      return part ? &part->band : nullptr;
    };
    const Place<acre::NoiseSource> noise = [band](Recipe& r) -> acre::NoiseSource* {
      acre::NoiseBand* of = band(r);
      return of ? &of->noise : nullptr;
    };
    const acre::NoiseBand& now = walls->band;
    out = {declared<acre::NoiseSource>(now.noise, noise, &acre::NoiseSource::width),
        declared<acre::NoiseBand>(now, band, &acre::NoiseBand::low, tr("solid from")),
        declared<acre::NoiseBand>(now, band, &acre::NoiseBand::high, tr("to"))};
  } else if (const auto* a = std::get_if<acre::FilledAutomaton>(&process.what)) {
    using T = acre::FilledAutomaton;
    if (a->refill) add(*a, {&T::fill});
    add(*a, {&T::steps});
  } else if (const auto* w = std::get_if<acre::DiggingWalks>(&process.what)) {
    using T = acre::DiggingWalks;
    add(*w, {&T::walkers, &T::steps, &T::turn, &T::radius, &T::untilOpen});
  } else if (const auto* body = std::get_if<acre::LevelBody>(&process.what)) {
    using T = acre::LevelBody;
    add(*body, {&T::floods, &T::size, &T::inward, &T::smooth});
  } else if (const auto* rooms = std::get_if<acre::LevelRooms>(&process.what)) {
    using T = acre::LevelRooms;
    add(*rooms, {&T::count, &T::distance});
  } else if (const auto* spaces = std::get_if<acre::LevelSpaces>(&process.what)) {
    add(*spaces, {&acre::LevelSpaces::least});
  } else if (const auto* courses = std::get_if<acre::LevelCourses>(&process.what)) {
    using T = acre::LevelCourses;
    add(*courses, {&T::count, &T::share, &T::feature, &T::winding});
  }
  return out;
}

template <class T>
auto LevelEditor::formOf(const Process& process) -> Form<T> {
  return form<T>(
      std::get<T>(process.what), [id = process.id](Recipe& r) { return partOf<T>(r, id); },
      keyOf(process.id), tr("a process"));
}

void LevelEditor::moveProcess(const std::string& id, int by, const QString& step) {
  apply(step, [&](Recipe& r) { moveIn(r.level->processes, id, by); });
}

void LevelEditor::addProcess(QVBoxLayout* column, const Process& process) {
  const std::string id = process.id;
  const auto made = form<Process>(
      process, [id](Recipe& r) { return withId(r.level->processes, id); }, keyOf(id),
      tr("a process"));
  auto* steps = wordButton(
      tr("Steps"), made.named("steps.show"), tr("Shows this process step by step in Replay"));
  connect(steps, &QToolButton::clicked, this,
      [this, id] { emit replayRequested(QString::fromStdString(id)); });
  column->addSpacing(2);
  Row head(column);
  auto* on = made.onTick(&Process::on);
  on->setAccessibleName(tr("%1 on").arg(QString::fromStdString(process.name)));
  head.add(on).add(made.text(&Process::name), 1).words(wordOf(process)).add(steps);
  for (const auto& [text, name, tip, by] :
      {std::tuple("↑", "up", tr("Earlier"), -1), std::tuple("↓", "down", tr("Later"), 1)}) {
    auto* move = smallButton(QString::fromUtf8(text), made.named(name), tip);
    connect(move, &QToolButton::clicked, this,
        [this, id, by = by, tip = tip] { moveProcess(id, by, tr("%1 in the chain").arg(tip)); });
    head.add(move);
  }
  head.add(deleteButton(made.named("delete"), tr("Delete process"),
      [id](Recipe& r) {
        std::erase_if(r.level->processes, [&](auto& p) { return p.id == id; });
        for (acre::ObjectKind& of : r.objects->kinds)
          if (of.noise && of.noise->process == id) of.noise.reset();
      }));
  addChoices(column, process);
  const bool paired = std::holds_alternative<acre::NoiseWalls>(process.what) ||
                      std::holds_alternative<acre::LevelSpaces>(process.what);
  addNumbers(column, made.key(), tr("a level"), numbersOf(process), paired ? 3 : 2);
  if (std::holds_alternative<acre::LevelRooms>(process.what)) addPieces(column, process);
}

void LevelEditor::addChoices(QVBoxLayout* column, const Process& process) {
  using namespace acre;
  if (std::holds_alternative<DiggingWalks>(process.what)) return;
  Row row(column, 6);
  if (std::holds_alternative<NoiseWalls>(process.what)) {
    row.add(formOf<NoiseWalls>(process).tick(&NoiseWalls::refill, tr("open everything else")));
  } else if (std::holds_alternative<FilledAutomaton>(process.what)) {
    const auto made = formOf<FilledAutomaton>(process);
    const auto check = [](const std::string& text) {
      const auto read = readRule(text, AutomatonRule::kPlane, "rule");
      return read ? QString() : QString::fromStdString(read.error().text());
    };
    row.words(tr("rule"))
        .add(made.text(&FilledAutomaton::rule, check), 1)
        .add(made.tick(&FilledAutomaton::refill, tr("refill")));
    Row(column, 6)
        .words(tr("beyond the edge lies"))
        .add(made.choice(&FilledAutomaton::edge,
            {tr("solid rock"), tr("open space"), tr("nothing: edge cells stay")}))
        .rest();
    return;
  } else if (std::holds_alternative<LevelBody>(process.what)) {
    row.words(tr("begins as a"))
        .add(formOf<LevelBody>(process).choice(
            "shape", tr("Shape of an outline"), {}, {tr("disc"), tr("rectangle")},
            [](const LevelBody& b) { return b.round ? 0 : 1; },
            [](LevelBody& b, int chosen) { b.round = chosen == 0; }));
  } else if (std::holds_alternative<LevelRooms>(process.what)) {
    row.add(formOf<LevelRooms>(process).tick(&LevelRooms::turn, tr("turned by quarters")));
  } else if (std::holds_alternative<LevelCourses>(process.what)) {
    const auto made = formOf<LevelCourses>(process);
    row.add(made.tick(&LevelCourses::dig, tr("dig through rock")))
        .add(made.tick(&LevelCourses::join, tr("join")))
        .words(tr("made of"))
        .add(made.material(&LevelCourses::material, {{tr("what is open"), {}}}), 1);
    return;
  } else {
    row.add(formOf<LevelSpaces>(process).tick(
        &LevelSpaces::join, tr("connect the rest by the shortest digging")));
  }
  row.rest();
}

void LevelEditor::addPieces(QVBoxLayout* column, const Process& process) {
  const std::string id = process.id;
  for (const auto& piece : std::get<acre::LevelRooms>(process.what).pieces)
    addPiece(column, process, piece);
  auto* add =
      wordButton(tr("+ Room"), keyOf(id) + QStringLiteral(".addRoom"), tr("Adds a prepared room"));
  connect(add, &QToolButton::clicked, this, [this, id] {
    apply(tr("Add room"), [&](Recipe& r) {
      auto* rooms = partOf<acre::LevelRooms>(r, id);
      if (rooms)
        rooms->pieces.push_back({acre::freshId("room", idsOf(rooms->pieces)),
            "#######\n#.....#\n#......\n#.....#\n#######\n", {}});
    });
  });
  Row(column).space(22).add(add).rest();
}

void LevelEditor::addPiece(
    QVBoxLayout* column, const Process& process, const acre::LevelRooms::Piece& piece) {
  const std::string id = process.id, pieceId = piece.id;
  const auto made = form<acre::LevelRooms::Piece>(
      piece,
      [id, pieceId](Recipe& r) {
        auto* rooms = partOf<acre::LevelRooms>(r, id);
        return rooms ? withId(rooms->pieces, pieceId) : nullptr;
      },
      keyOf(id) + QLatin1Char('.') + QString::fromStdString(pieceId), tr("a room"));
  auto* name = caption(QString::fromStdString(pieceId));
  name->setFixedWidth(78);
  Row row(column);
  row.space(22).layout()->addWidget(name, 0, Qt::AlignTop);
  if (piece.file.empty()) {
    row.add(roomText(made, piece.text, pieceId), 1);
  } else {
    auto* file = new QLabel(QString::fromStdString(piece.file));
    file->setTextInteractionFlags(Qt::TextSelectableByMouse);
    row.add(file, 1);
  }
  auto* share = made.number(&acre::LevelRooms::Piece::share);
  share->setFixedWidth(52);
  auto* file =
      wordButton(tr("File…"), made.named("file"), tr("Reads the room from a text or PNG file"));
  connect(file, &QToolButton::clicked, this, [this, id, pieceId] {
    emit roomFileRequested(QString::fromStdString(id), QString::fromStdString(pieceId));
  });
  auto* buttons = new QVBoxLayout;
  buttons->setSpacing(2);
  buttons->addWidget(share);
  buttons->addWidget(file);
  buttons->addWidget(
      deleteButton(made.named("delete"), tr("Delete room"), [id, pieceId](Recipe& r) {
        if (auto* rooms = partOf<acre::LevelRooms>(r, id))
          std::erase_if(rooms->pieces, [&](auto& one) { return one.id == pieceId; });
      }));
  buttons->addStretch(1);
  row.layout()->addLayout(buttons);
}

TextBox* LevelEditor::roomText(
    const Form<acre::LevelRooms::Piece>& made, const std::string& cells, const std::string& id) {
  auto* text = new TextBox(QString::fromStdString(cells));
  text->setObjectName(made.named("text"));
  text->setAccessibleName(tr("Cells of a room"));
  text->setToolTip(
      tr("# solid, . open, space as it is; letters and digits mark places.\n"
         "Taken over when the text is left."));
  QFont fixed = font();
  fixed.setFamily(QStringLiteral("DejaVu Sans Mono"));
  text->setFont(fixed);
  text->setTabChangesFocus(true);
  text->setLineWrapMode(QPlainTextEdit::NoWrap);
  constexpr qsizetype kMostLines = 12;
  const auto lines = QString::fromStdString(cells).count(QLatin1Char('\n')) + 1;
  if (lines <= kMostLines) text->setVerticalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  text->setFixedHeight(static_cast<int>(std::clamp<qsizetype>(lines, 3, kMostLines)) *
                           QFontMetrics(fixed).lineSpacing() +
                       14);
  connect(text, &TextBox::left, this, [this, text, id, place = made.place()] {
    const std::string typed = text->toPlainText().toStdString();
    Recipe now = document_.recipe();
    const auto* one = place(now);
    if (!one || one->text == typed) return;
    if (const auto read = acre::readRoom(typed, "room " + id); !read) {
      text->setPlainText(QString::fromStdString(one->text));
      return emit refused(QString::fromStdString(read.error().text()));
    }
    apply(tr("Cells of a room"), [&](Recipe& r) { place(r)->text = typed; });
  });
  return text;
}

void LevelEditor::setRoomFile(const QString& process, const QString& piece, const QString& file) {
  const std::filesystem::path path(file.toStdString());
  std::error_code none;
  const auto shorter = std::filesystem::relative(path, document_.recipe().folder, none);
  const bool saved = !document_.recipe().folder.empty() && !none && !shorter.empty();
  apply(tr("Room from a file"), [&](Recipe& r) {
    auto* rooms = partOf<acre::LevelRooms>(r, process.toStdString());
    auto* one = rooms ? withId(rooms->pieces, piece.toStdString()) : nullptr;
    if (!one) return;
    one->text.clear();
    one->file = saved ? shorter.string() : path.string();
  });
}

}  // namespace app
