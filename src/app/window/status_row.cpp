#include "app/window/status_row.h"

#include <QHBoxLayout>
#include <cmath>

#include "app/look/look.h"
#include "world/plan.h"

namespace app {
namespace {

/// Height, material and biome in words.
QString contentsOf(const acre::World& world, const acre::CellValue& value) {
  if (value.material == acre::kOutside) return StatusRow::tr("outside the bounds");
  const acre::Material* material = planOf(world).catalogue().material(value.material);
  QString what =
      StatusRow::tr("height %1 · ").arg(look::number(std::round(value.height * 100) / 100.0)) +
      (material ? QString::fromStdString(material->name) : StatusRow::tr("unassigned: no band"));
  if (!planOf(world).biomes() || value.biome == acre::kOutsideBiome) return what;
  const acre::Biome* biome = planOf(world).catalogue().biome(value.biome);
  const QString name =
      biome ? QString::fromStdString(biome->name) : StatusRow::tr("no rule covers it");
  if (!what.endsWith(name)) what += QStringLiteral(" · ") + name;
  return what;
}

}  // namespace

StatusRow::StatusRow(QWidget* parent) : QWidget(parent) {
  setFixedHeight(26);
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(12, 0, 16, 0);
  cell_ = new QLabel;
  cell_->setObjectName(QStringLiteral("status.cell"));
  stream_ = new QLabel;
  stream_->setObjectName(QStringLiteral("status.stream"));
  stream_->setToolTip(
      tr("Chunks within the view distance: loaded of needed; those on their way, the ones ahead\n"
         "of need among them; and the median time to make one."));
  row->addWidget(cell_);
  row->addStretch(1);
  row->addWidget(stream_);
}

void StatusRow::showCell(
    const acre::World& world, acre::Cell cell, const acre::CellValue& value, bool underPointer) {
  const acre::ChunkPos chunk = planOf(world).layout().chunkOf(cell);
  const acre::Cell local = planOf(world).layout().localOf(cell);
  cell_->setText(
      tr("%1x %2 z %3 · chunk %4, %5 · local %6, %7 · %8")
          .arg(underPointer ? QString() : tr("viewpoint "), look::wholeNumber(cell.x),
              look::wholeNumber(cell.z), look::wholeNumber(chunk.cx), look::wholeNumber(chunk.cz))
          .arg(local.x)
          .arg(local.z)
          .arg(contentsOf(world, value)));
}

void StatusRow::showStream(const acre::StreamStats& stats) {
  QString text = tr("%1 of %2 loaded")
                     .arg(look::wholeNumber(static_cast<qint64>(stats.needed - stats.missing)),
                         look::wholeNumber(static_cast<qint64>(stats.needed + stats.cut)));
  if (const size_t open = stats.waiting + stats.working + stats.ready; open > 0)
    text += tr(" · %1 on their way").arg(look::wholeNumber(static_cast<qint64>(open)));
  if (stats.failed > 0) text += tr(" · %1 failed").arg(stats.failed);
  text += tr(" · %1 ms a chunk").arg(stats.medianMillis, 0, 'f', 2);
  stream_->setText(text);
}

void StatusRow::tellOfCell(const QString& text) {
  cell_->setText(text);
}

void StatusRow::tell(const QString& text) {
  stream_->setText(text);
}

}  // namespace app
