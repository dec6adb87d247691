// The pieces that objects are made of: one of them at a time is drawn, layer by layer.
#include <QApplication>
#include <QClipboard>
#include <cstdint>

#include "app/edit/lists.h"
#include "app/edit/swatch.h"
#include "app/look/look.h"
#include "app/objects/objects_editor.h"
#include "app/objects/piece_grid.h"
#include "output/piece_files.h"
#include "recipe/piece_text.h"

namespace app {
namespace {

using acre::ObjectPiece;
using acre::Recipe;

ObjectPiece* pieceIn(Recipe& r, const std::string& id) {
  return withId(r.objects->pieces, id);
}
const ObjectPiece* pieceIn(const Recipe& r, const std::string& id) {
  return pieceIn(const_cast<Recipe&>(r), id);  // Only looked at.
}

QString pieceKey(const std::string& id) {
  return QStringLiteral("objects.piece.") + QString::fromStdString(id);
}

/// What is drawn with, where it is no material; no ids of any.
constexpr const char* kLeave = "*leave";
constexpr const char* kOpened = "*open";

/// A small thing to begin with.
ObjectPiece beginning(const Recipe& r) {
  ObjectPiece out;
  out.id = acre::freshId("piece", idsOf(r.objects->pieces));
  out.name = "Piece " + std::to_string(r.objects->pieces.size() + 1);
  const auto solid = std::find_if(r.materials.begin(), r.materials.end(),
      [](const acre::Material& m) { return m.state == acre::MaterialState::Solid; });
  if (solid != r.materials.end()) out.signs = {{"#", solid->id}};
  out.layers = {{{"...", solid != r.materials.end() ? ".#." : "._.", "..."}}};
  return out;
}

}  // namespace

void ObjectsEditor::addPieces(QVBoxLayout* column) {
  const Recipe& recipe = document_.recipe();
  section(column, tr("Pieces"));
  if (recipe.objects->pieces.empty())
    column->addWidget(caption(tr("Objects without a piece are signs. A piece is drawn of "
                                 "materials: one cell, some stones "
                                 "beside each other, a hut."),
        true));
  for (const ObjectPiece& piece : recipe.objects->pieces) addPiece(column, piece);
  Row(column)
      .add(button(
          tr("+ Piece"), QStringLiteral("objects.addPiece"),
          tr("Adds a piece, drawn of materials, that kinds of objects may be made of."),
          [](Recipe& r) {
            if (!r.materials.empty()) r.objects->pieces.push_back(beginning(r));
          },
          tr("Add piece")))
      .rest();
}

QToolButton* ObjectsEditor::openButton(const QString& word, const QString& name, const QString& tip,
    std::string ObjectsEditor::*opened, const std::string& id) {
  auto* open = wordButton(this->*opened == id ? tr("Close") : word, name, tip);
  connect(open, &QToolButton::clicked, this, [this, opened, id] {
    this->*opened = this->*opened == id ? std::string() : id;
    if (opened == &ObjectsEditor::drawing_) layer_ = SIZE_MAX;  // The highest: all of it is seen.
    built_.clear();
    // The button that was pressed goes with the old controls: not before it has ended.
    QMetaObject::invokeMethod(
        this, [this] { refresh(); }, Qt::QueuedConnection);
  });
  return open;
}

void ObjectsEditor::addPiece(QVBoxLayout* column, const ObjectPiece& piece) {
  const std::string id = piece.id;
  const auto made = form<ObjectPiece>(
      piece, [id](Recipe& r) { return pieceIn(r, id); }, pieceKey(id), tr("a piece"));
  auto* open = openButton(tr("Draw"), made.named("draw"),
      tr("Shows the layers of the piece, to draw on."), &ObjectsEditor::drawing_, id);
  auto* size = caption({});
  follow([size, id](const Recipe& r) {
    const ObjectPiece* of = pieceIn(r, id);
    if (!of) return;
    const auto& rows = of->layers[0].rows;
    size->setText(tr("%1 × %2 × %3").arg(rows[0].size()).arg(rows.size()).arg(of->layers.size()));
  });
  Row(column)
      .add(made.text(&ObjectPiece::name), 1)
      .add(size)
      .add(open)
      .add(deleteButton(made.named("delete"), tr("Delete piece"), [id](Recipe& r) {
        std::erase_if(r.objects->pieces, [&](const ObjectPiece& p) { return p.id == id; });
        for (acre::ObjectKind& kind : r.objects->kinds) {
          if (kind.piece == id) kind.piece.clear();
          for (acre::ObjectChoice& one : kind.what)
            if (one.piece == id) one.piece.clear();
        }
      }));
  if (drawing_ == id) addDrawing(column, made, piece);
}

void ObjectsEditor::addDrawing(
    QVBoxLayout* column, const Form<ObjectPiece>& made, const ObjectPiece& piece) {
  const std::string id = piece.id;
  layer_ = std::min(layer_, piece.layers.size() - 1);
  auto* grid = new PieceGrid;
  grid->setObjectName(made.named("grid"));
  grid->setAccessibleName(tr("Layer of a piece"));
  auto* model = new PieceModel;
  model->setObjectName(made.named("model"));
  model->setAccessibleName(tr("The piece from all sides"));
  auto* level = caption({});
  level->setObjectName(made.named("layer"));
  const auto show = [=, this](const Recipe& r) {
    const ObjectPiece* of = pieceIn(r, id);
    if (!of) return;
    layer_ = std::min(layer_, of->layers.size() - 1);
    grid->show(*of, r, layer_);
    model->show(*of, r, layer_ + 1);
    level->setText(tr("layer %1 of %2").arg(layer_ + 1).arg(of->layers.size()));
  };

  auto* ink = new Choice;
  ink->setObjectName(made.named("ink"));
  ink->setAccessibleName(tr("What is drawn with"));
  for (const acre::Material& m : document_.recipe().materials)
    ink->addItem(QString::fromStdString(m.name), QString::fromStdString(m.id));
  ink->addItem(tr("opened"), QLatin1String(kOpened));
  ink->addItem(tr("left as it is"), QLatin1String(kLeave));
  if (!piece.signs.empty())
    ink->setCurrentIndex(
        std::max(0, ink->findData(QString::fromStdString(piece.signs[0].material))));
  if (const int known = ink->findData(ink_); known >= 0) ink->setCurrentIndex(known);
  connect(ink, &QComboBox::currentIndexChanged, this,
      [this, ink] { ink_ = ink->currentData().toString(); });
  ink_ = ink->currentData().toString();

  Row layers(column);
  layers.words(tr("draw with")).add(inked(ink), 1);
  for (const auto& [text, name, tip, by] : {std::tuple("↓", "lower", tr("The layer below"), -1),
           std::tuple("↑", "higher", tr("The layer above"), 1)}) {
    auto* step = smallButton(QString::fromUtf8(text), made.named(name), tip);
    connect(step, &QToolButton::clicked, this, [this, by = by, show] {
      if (by > 0 || layer_ > 0) layer_ += static_cast<size_t>(by);
      show(document_.recipe());
    });
    layers.add(step);
  }
  layers.add(level);

  auto* pictures = new QHBoxLayout;
  pictures->addWidget(grid, 0, Qt::AlignTop);
  pictures->addWidget(model, 1);
  column->addLayout(pictures);
  connect(grid, &PieceGrid::drawn, this, [this, id](int x, int z, bool erase) {
    const std::string with = erase ? kLeave : ink_.toStdString();
    apply(
        tr("Draw piece"),
        [&](Recipe& r) {
          ObjectPiece* of = pieceIn(r, id);
          if (!of) return;
          const char sign = with == kLeave    ? ObjectPiece::kLeft
                            : with == kOpened ? ObjectPiece::kOpened
                                              : acre::signFor(*of, with);
          of->layers[layer_].rows[static_cast<size_t>(z)][static_cast<size_t>(x)] = sign;
        },
        pieceKey(id) + QStringLiteral(".drawn"));
  });
  connect(grid, &PieceGrid::strokeEnded, this, [this] { document_.endGesture(); });
  follow(show);

  // How large it is, and how it stands.
  const auto size = [&](const char* key, const QString& title, auto&& get, auto&& set) {
    return made.number(
        key, tr("%1 of a piece").arg(title),
        {{1, static_cast<double>(acre::limits::pieceSide)}, 1, true, false, {}}, title,
        [get](
            const ObjectPiece& p) -> std::optional<double> { return static_cast<double>(get(p)); },
        [set](ObjectPiece& p, double v) { set(p, static_cast<size_t>(v)); });
  };
  const auto wide = [](const ObjectPiece& p) { return p.layers[0].rows[0].size(); };
  const auto rows = [](const ObjectPiece& p) { return p.layers[0].rows.size(); };
  const auto tall = [](const ObjectPiece& p) { return p.layers.size(); };
  Row(column)
      .words(tr("wide"))
      .add(size("wide", tr("Width"), wide,
               [=](ObjectPiece& p, size_t v) { acre::resizePiece(p, v, rows(p), tall(p)); }),
          52)
      .words(tr("long"))
      .add(size("long", tr("Length"), rows,
               [=](ObjectPiece& p, size_t v) { acre::resizePiece(p, wide(p), v, tall(p)); }),
          52)
      .words(tr("layers"))
      .add(size("tall", tr("Layers"), tall,
               [=](ObjectPiece& p, size_t v) { acre::resizePiece(p, wide(p), rows(p), v); }),
          52)
      .rest();
  if (document_.recipe().frame.blocks()) {
    Row stands(column);
    made.number(stands, &ObjectPiece::sink, 52, tr("sunk"));
    made.number(stands, &ObjectPiece::fill, 52, tr("filled under"));
    stands.add(made.tick(&ObjectPiece::cuts, tr("cuts in"))).rest();
  }
  Row ways(column);
  if (document_.recipe().frame.blocks())
    ways.add(made.tick(&ObjectPiece::follow, tr("follows the ground")));
  ways.add(made.tick(&ObjectPiece::turns, tr("turned")))
      .add(made.tick(&ObjectPiece::mirror, tr("mirrored")))
      .add(made.tick(&ObjectPiece::cover, tr("gives way")))
      .rest();

  auto* copy = wordButton(tr("Copy"), made.named("copy"),
      tr("Copies signs and layers as text, for any editor of text."));
  connect(copy, &QToolButton::clicked, this, [this, id] {
    if (const ObjectPiece* of = pieceIn(document_.recipe(), id))
      QApplication::clipboard()->setText(QString::fromStdString(acre::pieceText(*of)));
  });
  auto* paste = wordButton(tr("Paste"), made.named("paste"),
      tr("Takes signs and layers from text: a line \"# brick\" for each sign, a blank line, rows "
         "of "
         "signs, a blank line between layers."));
  connect(paste, &QToolButton::clicked, this, [this, id] {
    const ObjectPiece* of = pieceIn(document_.recipe(), id);
    if (!of) return;
    const auto read = acre::pieceFromText(QApplication::clipboard()->text().toStdString(), *of);
    if (!read)
      return emit refused(
          tr("The text is no piece: %1").arg(QString::fromStdString(read.error().text())));
    apply(tr("Paste piece"), [&](Recipe& r) {
      if (ObjectPiece* into = pieceIn(r, id)) *into = *read;
    });
  });
  auto* read = wordButton(tr("Read in…"), made.named("read"),
      tr("Takes signs and layers from a file: text, a picture for each layer in the colours of "
         "materials, or a volume of numbers."));
  connect(read, &QToolButton::clicked, this,
      [this, id] { emit pieceFileRequested(QString::fromStdString(id), true); });
  auto* write = wordButton(
      tr("Write…"), made.named("write"), tr("Writes signs and layers to a file of such a kind."));
  connect(write, &QToolButton::clicked, this,
      [this, id] { emit pieceFileRequested(QString::fromStdString(id), false); });
  Row(column).add(copy).add(paste).add(read).add(write).rest();
  column->addSpacing(4);
}

void ObjectsEditor::readPiece(const QString& id, const QString& file) {
  const ObjectPiece* of = pieceIn(document_.recipe(), id.toStdString());
  if (!of) return;
  const auto read = acre::readPiece(file.toStdString(), *of, document_.recipe().materials);
  if (!read)
    return emit refused(
        tr("The file is no piece: %1").arg(QString::fromStdString(read.error().text())));
  apply(tr("Read piece"), [&](Recipe& r) {
    if (ObjectPiece* into = pieceIn(r, id.toStdString())) *into = *read;
  });
}

void ObjectsEditor::writePiece(const QString& id, const QString& file) {
  const ObjectPiece* of = pieceIn(document_.recipe(), id.toStdString());
  if (!of) return;
  if (const acre::Status made =
          acre::writePiece(*of, document_.recipe().materials, file.toStdString());
      !made)
    emit refused(QString::fromStdString(made.error().text()));
}

}  // namespace app
