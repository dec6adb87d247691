// Controls of one process of a level: what LevelEditor says of each kind.
#include <QFontMetrics>
#include <QLineEdit>
#include <algorithm>
#include <cmath>
#include <filesystem>

#include "app/biome/controls.h"
#include "app/edit/lists.h"
#include "app/level/level_editor.h"
#include "app/look/look.h"
#include "recipe/automaton_rule.h"
#include "recipe/cave_recipe.h"

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
      QObject::tr("open spaces")};
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
  }
  return out;
}

void LevelEditor::addProcess(QVBoxLayout* column, const Process& process) {
  const std::string id = process.id;
  const QString key = keyOf(id);
  auto* head = headOf(key, id, process.name, tr("a process"));
  auto* on = new Tick(QString());
  on->setObjectName(key + QStringLiteral(".on"));
  on->setAccessibleName(tr("%1 on").arg(QString::fromStdString(process.name)));
  on->setChecked(process.on);
  connect(on, &Tick::toggled, this, [this, id](bool state) {
    editProcess(state ? tr("Switch process on") : tr("Switch process off"), id,
        [state](Process& p) { p.on = state; });
  });
  head->insertWidget(0, on);
  head->addWidget(caption(wordOf(process)));
  auto* steps = wordButton(tr("Steps"), key + QStringLiteral(".steps.show"),
      tr("Shows this process step by step in Replay"));
  connect(steps, &QToolButton::clicked, this,
      [this, id] { emit replayRequested(QString::fromStdString(id)); });
  head->addWidget(steps);
  for (const auto& [text, name, tip, by] :
      {std::tuple("↑", "up", tr("Earlier"), -1), std::tuple("↓", "down", tr("Later"), 1)}) {
    auto* move =
        smallButton(QString::fromUtf8(text), key + QLatin1Char('.') + QLatin1String(name), tip);
    connect(move, &QToolButton::clicked, this, [this, id, tip = tip, by = by] {
      apply(tr("%1 in the chain").arg(tip), [&](Recipe& r) {
        auto& list = r.level->processes;
        for (size_t k = 0; k < list.size(); ++k) {
          const auto to = static_cast<ptrdiff_t>(k) + by;
          if (list[k].id != id || to < 0 || to >= static_cast<ptrdiff_t>(list.size())) continue;
          return std::swap(list[k], list[static_cast<size_t>(to)]);
        }
      });
    });
    head->addWidget(move);
  }
  head->addWidget(deleteButton(key + QStringLiteral(".delete"), tr("Delete process"),
      [id](Recipe& r) { std::erase_if(r.level->processes, [&](auto& p) { return p.id == id; }); }));
  column->addSpacing(2);
  column->addLayout(head);
  addChoices(column, process);
  const bool paired = std::holds_alternative<acre::NoiseWalls>(process.what) ||
                      std::holds_alternative<acre::LevelSpaces>(process.what);
  addNumbers(column, key, tr("a level"), numbersOf(process), paired ? 3 : 2);
  if (std::holds_alternative<acre::LevelRooms>(process.what)) addPieces(column, process);
}

void LevelEditor::addChoices(QVBoxLayout* column, const Process& process) {
  const std::string id = process.id;
  const QString key = keyOf(id);
  const auto tick = [&](const QString& text, const char* name, bool state, const QString& tip,
                        std::function<void(Process&, bool)> set) {
    auto* box = new Tick(text);
    box->setObjectName(key + QLatin1Char('.') + QLatin1String(name));
    box->setChecked(state);
    box->setToolTip(tip);
    connect(box, &Tick::toggled, this, [this, id, text, set = std::move(set)](bool now) {
      editProcess(text, id, [&](Process& p) { set(p, now); });
    });
    return box;
  };
  auto* row = new QHBoxLayout;
  row->setSpacing(6);
  if (const auto* walls = std::get_if<acre::NoiseWalls>(&process.what)) {
    row->addWidget(tick(tr("open everything else"), "refill", walls->refill,
        tr("Off: cells outside the band stay as they are."),
        [](Process& p, bool now) { std::get<acre::NoiseWalls>(p.what).refill = now; }));
  } else if (const auto* automaton = std::get_if<acre::FilledAutomaton>(&process.what)) {
    row->addWidget(caption(tr("rule")));
    auto* rule = new QLineEdit(QString::fromStdString(automaton->rule));
    rule->setObjectName(key + QStringLiteral(".rule"));
    rule->setAccessibleName(tr("Rule of an automaton"));
    rule->setToolTip(
        tr("Birth and survival by solid neighbours of 8: a digit each, as "
           "B5678/S45678."));
    connect(rule, &QLineEdit::editingFinished, this, [this, rule, id] {
      const auto* now = withId(document_.recipe().level->processes, id);
      const auto* a = now ? std::get_if<acre::FilledAutomaton>(&now->what) : nullptr;
      const std::string text = rule->text().trimmed().toStdString();
      if (!a || a->rule == text) return;
      const auto read = acre::readRule(text, acre::AutomatonRule::kPlane, "rule");
      if (!read) {
        rule->setText(QString::fromStdString(a->rule));
        return emit refused(QString::fromStdString(read.error().text()));
      }
      editProcess(tr("Rule of an automaton"), id,
          [&](Process& p) { std::get<acre::FilledAutomaton>(p.what).rule = text; });
    });
    row->addWidget(rule, 1);
    row->addWidget(tick(tr("refill"), "refill", automaton->refill,
        tr("Off: the rule goes on from what is there."),
        [](Process& p, bool now) { std::get<acre::FilledAutomaton>(p.what).refill = now; }));
    column->addLayout(row);
    row = new QHBoxLayout;
    row->setSpacing(6);
    row->addWidget(caption(tr("beyond the edge lies")));
    auto* edge = new Choice;
    edge->setObjectName(key + QStringLiteral(".edge"));
    edge->setAccessibleName(tr("Edge of an automaton"));
    edge->addItems({tr("solid rock"), tr("open space"), tr("nothing: edge cells stay")});
    edge->setCurrentIndex(static_cast<int>(automaton->edge));
    connect(edge, &Choice::activated, this, [this, id](int index) {
      editProcess(tr("Edge of an automaton"), id, [index](Process& p) {
        std::get<acre::FilledAutomaton>(p.what).edge =
            static_cast<acre::AutomatonLayer::Edge>(index);
      });
    });
    row->addWidget(edge);
  } else if (const auto* body = std::get_if<acre::LevelBody>(&process.what)) {
    row->addWidget(caption(tr("begins as a")));
    auto* shape = new Choice;
    shape->setObjectName(key + QStringLiteral(".shape"));
    shape->addItems({tr("disc"), tr("rectangle")});
    shape->setCurrentIndex(body->round ? 0 : 1);
    connect(shape, &Choice::activated, this, [this, id](int index) {
      editProcess(tr("Shape of an outline"), id,
          [index](Process& p) { std::get<acre::LevelBody>(p.what).round = index == 0; });
    });
    row->addWidget(shape);
  } else if (const auto* rooms = std::get_if<acre::LevelRooms>(&process.what)) {
    row->addWidget(tick(tr("turned by quarters"), "turn", rooms->turn,
        tr("Rooms may lie in any of four directions."),
        [](Process& p, bool now) { std::get<acre::LevelRooms>(p.what).turn = now; }));
  } else if (const auto* spaces = std::get_if<acre::LevelSpaces>(&process.what)) {
    row->addWidget(tick(tr("connect the rest by the shortest digging"), "join", spaces->join,
        tr("Off: they are left as they are."),
        [](Process& p, bool now) { std::get<acre::LevelSpaces>(p.what).join = now; }));
  }
  row->addStretch(1);
  if (row->count() > 1) column->addLayout(row);
}

void LevelEditor::addPieces(QVBoxLayout* column, const Process& process) {
  const std::string id = process.id;
  const auto& rooms = std::get<acre::LevelRooms>(process.what);
  for (const auto& piece : rooms.pieces) {
    const std::string pieceId = piece.id;
    const QString key = keyOf(id) + QLatin1Char('.') + QString::fromStdString(pieceId);
    auto* row = new QHBoxLayout;
    row->setSpacing(5);
    row->addSpacing(22);
    auto* name = caption(QString::fromStdString(pieceId));
    name->setFixedWidth(78);
    row->addWidget(name, 0, Qt::AlignTop);
    const auto setPiece = [this, id, pieceId](const QString& step,
                              const std::function<void(acre::LevelRooms::Piece&)>& change) {
      editProcess(step, id, [&](Process& p) {
        for (auto& one : std::get<acre::LevelRooms>(p.what).pieces)
          if (one.id == pieceId) change(one);
      });
    };
    if (piece.file.empty()) {
      auto* text = new RoomText(QString::fromStdString(piece.text));
      text->setObjectName(key + QStringLiteral(".text"));
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
      const auto lines = QString::fromStdString(piece.text).count(QLatin1Char('\n')) + 1;
      if (lines <= kMostLines) text->setVerticalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
      text->setFixedHeight(static_cast<int>(std::clamp<qsizetype>(lines, 3, kMostLines)) *
                               QFontMetrics(fixed).lineSpacing() +
                           14);
      connect(text, &RoomText::left, this, [this, text, setPiece, id, pieceId] {
        const std::string now = text->toPlainText().toStdString();
        const auto* p = withId(document_.recipe().level->processes, id);
        const auto* one = p ? withId(std::get<acre::LevelRooms>(p->what).pieces, pieceId) : nullptr;
        if (!one || one->text == now) return;
        const auto read = acre::readRoom(now, "room " + pieceId);
        if (!read) {
          text->setPlainText(QString::fromStdString(one->text));
          return emit refused(QString::fromStdString(read.error().text()));
        }
        setPiece(tr("Cells of a room"), [&](auto& room) { room.text = now; });
      });
      row->addWidget(text, 1);
    } else {
      auto* file = new QLabel(QString::fromStdString(piece.file));
      file->setTextInteractionFlags(Qt::TextSelectableByMouse);
      row->addWidget(file, 1);
    }
    const Place<acre::LevelRooms::Piece> place = [id, pieceId](Recipe& r) {
      auto* rooms = partOf<acre::LevelRooms>(r, id);
      return rooms ? withId(rooms->pieces, pieceId) : nullptr;
    };
    auto* share = bindNumber(key, tr("a room"),
        declared<acre::LevelRooms::Piece>(piece, place, &acre::LevelRooms::Piece::share));
    share->setFixedWidth(52);
    auto* buttons = new QVBoxLayout;
    buttons->setSpacing(2);
    auto* file = wordButton(
        tr("File…"), key + QStringLiteral(".file"), tr("Reads the room from a text or PNG file"));
    connect(file, &QToolButton::clicked, this, [this, id, pieceId] {
      emit roomFileRequested(QString::fromStdString(id), QString::fromStdString(pieceId));
    });
    buttons->addWidget(share);
    buttons->addWidget(file);
    buttons->addWidget(
        deleteButton(key + QStringLiteral(".delete"), tr("Delete room"), [id, pieceId](Recipe& r) {
          if (Process* p = withId(r.level->processes, id))
            std::erase_if(std::get<acre::LevelRooms>(p->what).pieces,
                [&](auto& one) { return one.id == pieceId; });
        }));
    buttons->addStretch(1);
    row->addLayout(buttons);
    column->addLayout(row);
  }
  auto* add =
      wordButton(tr("+ Room"), keyOf(id) + QStringLiteral(".addRoom"), tr("Adds a prepared room"));
  connect(add, &QToolButton::clicked, this, [this, id] {
    editProcess(tr("Add room"), id, [](Process& p) {
      auto& pieces = std::get<acre::LevelRooms>(p.what).pieces;
      pieces.push_back({acre::freshId("room", idsOf(pieces)),
          "#######\n#.....#\n#......\n#.....#\n#######\n", {}});
    });
  });
  auto* row = new QHBoxLayout;
  row->addSpacing(22);
  row->addWidget(add);
  row->addStretch(1);
  column->addLayout(row);
}

void LevelEditor::setRoomFile(const QString& process, const QString& piece, const QString& file) {
  const std::filesystem::path path(file.toStdString());
  std::error_code none;
  const auto shorter = std::filesystem::relative(path, document_.recipe().folder, none);
  const bool saved = !document_.recipe().folder.empty() && !none && !shorter.empty();
  editProcess(tr("Room from a file"), process.toStdString(), [&](Process& p) {
    for (auto& one : std::get<acre::LevelRooms>(p.what).pieces)
      if (one.id == piece.toStdString()) {
        one.text.clear();
        one.file = saved ? shorter.string() : path.string();
      }
  });
}

}  // namespace app
