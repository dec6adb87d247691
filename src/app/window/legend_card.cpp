#include "app/window/legend_card.h"

#include <QPainter>
#include <algorithm>

#include "app/look/look.h"

namespace app {
namespace {

constexpr int kLegendRow = 20;

bool hasSwatch(const acre::LegendEntry& entry) {
  return entry.hatched || entry.argb != acre::kNoSwatch;
}
int textLeft(const acre::LegendEntry& entry) {
  return hasSwatch(entry) ? 40 : 12;
}

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

int LegendCard::rowOf(const acre::LegendEntry& entry, int width) const {
  const QFontMetrics metrics(look::font(look::Type::Body));
  const QRect room(0, 0, width - textLeft(entry) - 8, 1000);
  return std::max(kLegendRow,
      metrics.boundingRect(room, Qt::TextWordWrap, QString::fromStdString(entry.text)).height() +
          4);
}

QSize LegendCard::sizeHint() const {
  constexpr int kWide = 260;
  int height = 16;
  for (const acre::LegendEntry& entry : entries_) height += rowOf(entry, kWide);
  return {kWide, height};
}

void LegendCard::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const look::Tokens& t = look::tokens();
  p.setFont(look::font(look::Type::Body));
  int y = 8;
  for (const acre::LegendEntry& entry : entries_) {
    const bool swatch = hasSwatch(entry);
    if (swatch) {
      const QRect box(12, y + 3, 20, 13);
      p.fillRect(box, entry.hatched ? QBrush(look::hatch()) : QBrush(QColor::fromRgb(entry.argb)));
      p.setPen(t.edge);
      p.drawRect(box.adjusted(0, 0, -1, -1));
    }
    p.setPen(swatch ? t.ink : t.soft);
    const int x = textLeft(entry), high = rowOf(entry, width());
    p.drawText(QRect(x, y, width() - x - 8, high), Qt::AlignVCenter | Qt::TextWordWrap,
        QString::fromStdString(entry.text));
    y += high;
  }
}

}  // namespace app

#include "moc_legend_card.cpp"
