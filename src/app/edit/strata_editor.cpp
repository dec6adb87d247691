#include "app/edit/strata_editor.h"

#include <QColorDialog>
#include <QGridLayout>
#include <QHelpEvent>
#include <QPainter>
#include <QPushButton>
#include <QSignalBlocker>
#include <QToolTip>
#include <algorithm>
#include <cmath>
#include <limits>

#include "app/look/look.h"
#include "output/legend.h"
#include "output/picture.h"

namespace app {
namespace {

using acre::Band;
using acre::Material;
using acre::Recipe;

template <class List>
auto* withId(List& list, const std::string& id) {
  const auto found =
      std::find_if(list.begin(), list.end(), [&](const auto& m) { return m.id == id; });
  return found == list.end() ? nullptr : &*found;
}

template <class T>
std::vector<std::string> idsOf(const std::vector<T>& list) {
  std::vector<std::string> ids;
  ids.reserve(list.size());
  for (const T& member : list) ids.push_back(member.id);
  return ids;
}

QColor toQColor(const acre::Colour& c) {
  return {c.red, c.green, c.blue};
}

/// A swatch of a material, or of the hatch.
QIcon swatch(const Material* material) {
  QPixmap pixmap(14, 14);
  QPainter p(&pixmap);
  p.fillRect(pixmap.rect(), material ? QBrush(toQColor(material->colour)) : QBrush(look::hatch()));
  p.setPen(look::tokens().edge);
  p.drawRect(0, 0, 13, 13);
  return pixmap;
}

}  // namespace

// ---- the bar of shares -------------------------------------------------------------------------

ShareBar::ShareBar(QWidget* parent) : QWidget(parent) {
  setFixedHeight(22);
  setAccessibleName(tr("Shares of the bands, from low to high"));
}

void ShareBar::setParts(std::vector<Part> parts) {
  parts_ = std::move(parts);
  QStringList words;
  for (const Part& part : parts_) words << part.text;
  setAccessibleDescription(words.join(QStringLiteral("; ")));
  update();
}

void ShareBar::paintEvent(QPaintEvent*) {
  QPainter p(this);
  double at = 0;
  for (const Part& part : parts_) {
    const int x0 = static_cast<int>(std::lround(at * width()));
    at += part.share;
    const int x1 = static_cast<int>(std::lround(at * width()));
    const QRect r(x0, 0, x1 - x0, height());
    p.fillRect(r, part.hole ? QBrush(look::hatch()) : QBrush(part.colour));
  }
  p.setPen(look::tokens().edge);
  p.drawRect(rect().adjusted(0, 0, -1, -1));
}

bool ShareBar::event(QEvent* e) {
  if (e->type() != QEvent::ToolTip) return QWidget::event(e);
  const auto* help = static_cast<QHelpEvent*>(e);
  double at = 0;
  for (const Part& part : parts_) {
    at += part.share;
    if (help->pos().x() <= at * width()) {
      QToolTip::showText(help->globalPos(), part.text, this);
      break;
    }
  }
  return true;
}

// ---- the editor --------------------------------------------------------------------------------

StrataEditor::StrataEditor(Document& document, Statistics& statistics, QWidget* parent)
    : Editor(document, parent), statistics_(statistics) {
  column_ = new QVBoxLayout(this);
  column_->setContentsMargins(16, 12, 16, 12);
  column_->setSpacing(look::kSpace);
  bar_ = new ShareBar;
  bar_->setObjectName(QStringLiteral("strata.shares"));
  scope_ = caption({});
  scope_->setObjectName(QStringLiteral("strata.scope"));
  column_->addWidget(bar_);
  column_->addWidget(scope_);
  connect(&statistics_, &Statistics::changed, this, &StrataEditor::refreshShares);
  rebuild();
}

void StrataEditor::rebuild() {
  clearBindings();
  bands_.clear();
  materials_.clear();
  if (body_) {
    column_->removeWidget(body_);
    body_->hide();
    body_->deleteLater();
  }
  body_ = new QWidget;
  auto* column = new QVBoxLayout(body_);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(6);
  const Recipe& recipe = document_.recipe();
  auto* captions = new QHBoxLayout;
  captions->addWidget(heading(tr("Bands, high to low")), 1);
  captions->addWidget(caption(tr("below")));
  captions->addSpacing(62);
  captions->addWidget(caption(tr("share")));
  captions->addSpacing(30);
  column->addLayout(captions);
  if (recipe.bands.empty())
    column->addWidget(new QLabel(tr("No band yet: every cell is unassigned. Add one.")));
  for (size_t i = recipe.bands.size(); i-- > 0;)
    addBandRow(column, recipe.bands[i], i + 1 == recipe.bands.size());
  auto* add = new QPushButton(tr("Add band"));
  add->setObjectName(QStringLiteral("strata.addBand"));
  add->setToolTip(tr("A band on top of the others."));
  connect(add, &QPushButton::clicked, this, [this] {
    apply(tr("Add band"), [](Recipe& r) {
      Band band{acre::freshId("band", idsOf(r.bands)), {}, acre::kUnassignedId};
      if (!r.materials.empty()) band.material = r.materials.back().id;
      if (r.bands.size() == 1) r.bands.back().below = acre::Threshold{0, true};
      if (r.bands.size() > 1) {
        acre::Threshold end = *r.bands[r.bands.size() - 2].below;
        end.value += 5;
        r.bands.back().below = end;
      }
      r.bands.push_back(band);
    });
  });
  auto* row = new QHBoxLayout;
  row->addWidget(add);
  row->addStretch(1);
  column->addLayout(row);

  column->addSpacing(8);
  column->addWidget(ruleLine());
  column->addWidget(heading(tr("Materials")));
  for (const Material& material : recipe.materials) addMaterialRow(column, material);
  auto* addMaterial = new QPushButton(tr("Add material"));
  addMaterial->setObjectName(QStringLiteral("strata.addMaterial"));
  connect(addMaterial, &QPushButton::clicked, this, [this] {
    apply(tr("Add material"), [](Recipe& r) {
      const std::string id = acre::freshId("material", idsOf(r.materials));
      r.materials.push_back({id, "New material", {0x5C, 0x71, 0x42}, acre::MaterialState::Solid});
    });
  });
  auto* row2 = new QHBoxLayout;
  row2->addWidget(addMaterial);
  row2->addStretch(1);
  column->addLayout(row2);
  column->addStretch(1);
  column_->addWidget(body_, 1);
  refresh();
}

void StrataEditor::addBandRow(QVBoxLayout* column, const Band& band, bool last) {
  const std::string id = band.id;
  const QString key = QStringLiteral("band.") + QString::fromStdString(id);
  BandRow row;
  row.id = id;
  row.last = last;
  row.material = new Choice;
  row.material->setObjectName(key + QStringLiteral(".material"));
  row.material->setAccessibleName(tr("Material of the band"));
  row.material->setMinimumWidth(100);
  connect(row.material, &Choice::activated, this, [this, id, box = row.material] {
    const std::string material = box->currentData().toString().toStdString();
    apply(tr("Material of a band"), [&](Recipe& r) { withId(r.bands, id)->material = material; });
  });
  row.share = new QLabel;
  row.share->setObjectName(key + QStringLiteral(".share"));
  row.share->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
  row.share->setFixedWidth(50);
  row.share->setToolTip(tr("Share of the world that this band covers."));

  auto* line = new QHBoxLayout;
  line->setSpacing(5);
  line->addWidget(row.material, 1);
  row.fromSea = nullptr;
  if (last) {
    auto* rest = caption(tr("all above"));
    line->addWidget(rest);
    line->addSpacing(4);
  } else {
    row.fromSea = new Tick(tr("sea"));
    row.fromSea->setObjectName(key + QStringLiteral(".fromSea"));
    row.fromSea->setToolTip(
        tr("On: measured from the sea level, and moves with it. Off: an altitude."));
    connect(row.fromSea, &Tick::toggled, this, [this, id](bool on) {
      apply(on ? tr("Measure from the sea") : tr("Measure as altitude"), [&](Recipe& r) {
        auto& below = withId(r.bands, id)->below;
        if (!below || below->fromSea == on) return;
        // The place stays, only what it is measured from changes.
        below->value += on ? -r.frame.seaLevel : r.frame.seaLevel;
        below->fromSea = on;
      });
    });
    line->addWidget(row.fromSea);
    auto* field = bindNumber(
        {acre::limits::altitude, 0.5, false, false, {}}, key + ".below",
        tr("Upper end of the band"),
        {[id](const Recipe& r) -> std::optional<double> {
           const Band* b = withId(r.bands, id);
           return b && b->below ? std::optional(b->below->value) : std::nullopt;
         },
         [id](Recipe& r, double v) {
           Band* b = withId(r.bands, id);
           if (b && b->below) b->below->value = v;
         }},
        tr("Heights below this belong to the band, those at it and above to the next one."));
    field->setFixedWidth(70);
    line->addWidget(field);
  }
  line->addWidget(row.share);
  auto* remove = new QToolButton;
  remove->setText(QStringLiteral("×"));
  remove->setProperty("role", "small");
  remove->setObjectName(key + QStringLiteral(".delete"));
  remove->setToolTip(tr("Delete this band; the one above it takes its heights."));
  remove->setAccessibleName(tr("Delete band"));
  connect(remove, &QToolButton::clicked, this, [this, id] {
    apply(tr("Delete band"), [&](Recipe& r) {
      std::erase_if(r.bands, [&](const Band& b) { return b.id == id; });
      if (!r.bands.empty()) r.bands.back().below.reset();
    });
  });
  line->addWidget(remove);
  column->addLayout(line);
  bands_.push_back(row);
}

void StrataEditor::addMaterialRow(QVBoxLayout* column, const Material& material) {
  const std::string id = material.id;
  const QString key = QStringLiteral("material.") + QString::fromStdString(id);
  MaterialRow row;
  row.id = id;
  row.colour = new QToolButton;
  row.colour->setObjectName(key + QStringLiteral(".colour"));
  row.colour->setToolTip(tr("Colour on the map"));
  row.colour->setAccessibleName(tr("Colour"));
  connect(row.colour, &QToolButton::clicked, this, [this, id] {
    const Material* m = withId(document_.recipe().materials, id);
    if (!m) return;
    const QColor chosen = QColorDialog::getColor(
        toQColor(m->colour), this, tr("Colour of %1").arg(QString::fromStdString(m->name)));
    if (!chosen.isValid()) return;
    apply(tr("Colour of a material"), [&](Recipe& r) {
      withId(r.materials, id)->colour = {static_cast<uint8_t>(chosen.red()),
                                         static_cast<uint8_t>(chosen.green()),
                                         static_cast<uint8_t>(chosen.blue())};
    });
  });
  row.name = new QLineEdit;
  row.name->setObjectName(key + QStringLiteral(".name"));
  row.name->setAccessibleName(tr("Name of the material"));
  row.name->setMaxLength(100);
  connect(row.name, &QLineEdit::editingFinished, this, [this, id, field = row.name] {
    const std::string text = field->text().toStdString();
    const Material* m = withId(document_.recipe().materials, id);
    if (m && m->name != text)
      apply(tr("Rename material"), [&](Recipe& r) { withId(r.materials, id)->name = text; });
  });
  row.state = new Choice;
  row.state->addItems({tr("solid"), tr("passable"), tr("liquid")});
  row.state->setObjectName(key + QStringLiteral(".state"));
  row.state->setAccessibleName(tr("State"));
  connect(row.state, &Choice::activated, this, [this, id](int index) {
    apply(tr("State of a material"), [&](Recipe& r) {
      withId(r.materials, id)->state = static_cast<acre::MaterialState>(index);
    });
  });
  row.remove = new QToolButton;
  row.remove->setText(QStringLiteral("×"));
  row.remove->setProperty("role", "small");
  row.remove->setObjectName(key + QStringLiteral(".delete"));
  row.remove->setAccessibleName(tr("Delete material"));
  connect(row.remove, &QToolButton::clicked, this, [this, id] {
    apply(tr("Delete material"), [&](Recipe& r) {
      std::erase_if(r.materials, [&](const Material& m) { return m.id == id; });
    });
  });
  auto* line = new QHBoxLayout;
  line->setSpacing(5);
  line->addWidget(row.colour);
  line->addWidget(row.name, 1);
  line->addWidget(row.state);
  line->addWidget(row.remove);
  column->addLayout(line);
  materials_.push_back(row);
}

void StrataEditor::refresh() {
  const Recipe& recipe = document_.recipe();
  // Rows stand from high to low; a change of who uses what changes the delete buttons as well.
  const bool sameBands = std::equal(
      recipe.bands.rbegin(), recipe.bands.rend(), bands_.begin(), bands_.end(),
      [](const Band& b, const BandRow& row) { return b.id == row.id && row.last == !b.below; });
  const bool sameMaterials = std::equal(
      recipe.materials.begin(), recipe.materials.end(), materials_.begin(), materials_.end(),
      [](const Material& m, const MaterialRow& row) { return m.id == row.id; });
  if (!sameBands || !sameMaterials) return rebuild();
  for (const BandRow& row : bands_) {
    const Band* band = withId(recipe.bands, row.id);
    const QSignalBlocker quiet(row.material);
    if (listed_ != recipe.materials || row.material->count() == 0) {
      row.material->clear();
      row.material->addItem(swatch(nullptr), tr("unassigned"),
                            QString::fromLatin1(acre::kUnassignedId));
      for (const Material& m : recipe.materials)
        row.material->addItem(swatch(&m), QString::fromStdString(m.name),
                              QString::fromStdString(m.id));
    }
    row.material->setCurrentIndex(row.material->findData(QString::fromStdString(band->material)));
    if (!row.fromSea) continue;
    const QSignalBlocker quiet2(row.fromSea);
    row.fromSea->setChecked(band->below->fromSea);
  }
  listed_ = recipe.materials;
  for (const MaterialRow& row : materials_) {
    const Material* m = withId(recipe.materials, row.id);
    row.colour->setIcon(swatch(m));
    if (!row.name->hasFocus()) row.name->setText(QString::fromStdString(m->name));
    row.state->setCurrentIndex(static_cast<int>(m->state));
    const auto users = std::count_if(recipe.bands.begin(), recipe.bands.end(),
                                     [&](const Band& b) { return b.material == row.id; });
    row.remove->setEnabled(users == 0);
    row.remove->setToolTip(
        users == 0   ? tr("Delete this material.")
        : users == 1 ? tr("One band uses this material; give it another first.")
                     : tr("%1 bands use this material; give them another first.").arg(users));
  }
  refreshNumbers();
  refreshShares();
}

void StrataEditor::refreshShares() {
  const auto& sample = statistics_.sample();
  if (!sample) return;
  const Recipe& recipe = document_.recipe();
  scope_->setText(tr("Shares %1").arg(statistics_.scope()));
  std::vector<ShareBar::Part> parts;
  float from = -std::numeric_limits<float>::infinity();
  if (recipe.bands.empty()) parts.push_back({1, {}, true, tr("unassigned, 100 %")});
  for (const Band& band : recipe.bands) {
    float to = std::numeric_limits<float>::infinity();
    if (band.below) to = std::max(from, acre::altitudeOf(*band.below, recipe.frame.seaLevel));
    const double share = sample->shareBetween(from, to);
    from = to;
    const Material* m = withId(recipe.materials, band.material);
    const QString name = m ? QString::fromStdString(m->name) : tr("unassigned");
    const QString end =
        band.below ? tr("below %1 = ").arg(QString::fromStdString(acre::thresholdText(*band.below)))
                   : tr("all above = ");
    parts.push_back({share, m ? toQColor(m->colour) : QColor(), !m,
                     end + name + QStringLiteral(", ") + look::percent(share)});
    for (const BandRow& row : bands_) {
      if (row.id != band.id) continue;
      row.share->setText(share == 0 ? tr("never") : look::percent(share));
      row.share->setAccessibleName(parts.back().text);
    }
  }
  bar_->setParts(std::move(parts));
}

}  // namespace app
