#include "app/window/legend_card.h"

#include <QPainter>

#include "app/look/look.h"

namespace app {
namespace {

constexpr int kLegendRow = 20;

}  // namespace

LegendCard::LegendCard(QWidget* parent) : QWidget(parent) {
  setObjectName(QStringLiteral("legend"));
  setAccessibleName(tr("Legend"));
}

void LegendCard::setEntries(std::vector<acre::LegendEntry> entries) {
  entries_ = std::move(entries);
  QStringList words;
  for (const acre::LegendEntry& entry : entries_) words << QString::fromStdString(entry.text);
  setAccessibleDescription(words.join(QStringLiteral("; ")));
  setMinimumHeight(sizeHint().height());
  update();
}

QSize LegendCard::sizeHint() const {
  return {260, static_cast<int>(entries_.size()) * kLegendRow + 16};
}

void LegendCard::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const look::Tokens& t = look::tokens();
  p.setFont(look::font(look::Type::Body));
  int y = 8;
  for (const acre::LegendEntry& entry : entries_) {
    const bool swatch = entry.hatched || entry.argb != acre::kNoSwatch;
    if (swatch) {
      const QRect box(12, y + 3, 20, 13);
      p.fillRect(box, entry.hatched ? QBrush(look::hatch()) : QBrush(QColor::fromRgb(entry.argb)));
      p.setPen(t.edge);
      p.drawRect(box.adjusted(0, 0, -1, -1));
    }
    p.setPen(swatch ? t.ink : t.soft);
    const int x = swatch ? 40 : 12;
    p.drawText(QRect(x, y, width() - x - 8, kLegendRow), Qt::AlignVCenter,
        p.fontMetrics().elidedText(
            QString::fromStdString(entry.text), Qt::ElideRight, width() - x - 8));
    y += kLegendRow;
  }
}

}  // namespace app
