#include "app/objects/reason_bars.h"

#include <QPainter>
#include <algorithm>

#include "app/look/look.h"

namespace app {
namespace {

constexpr int kRow = 16, kWordsWide = 132, kFiguresWide = 44;
constexpr size_t kMostReasons = 4;

}  // namespace

ReasonBars::ReasonBars(QWidget* parent) : QWidget(parent) {
  setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
  hide();
}

QSize ReasonBars::sizeHint() const {
  return {200, static_cast<int>(bars_.size()) * kRow};
}

void ReasonBars::setFigures(const acre::ObjectFigures& figures, const QColor& ink) {
  bars_.clear();
  ink_ = ink;
  uint64_t refused = 0;
  std::vector<size_t> order;
  for (size_t n = 1; n < acre::kRefusals; ++n) {
    refused += figures.refused[n];
    if (figures.refused[n] > 0) order.push_back(n);
  }
  std::stable_sort(order.begin(), order.end(),
      [&](size_t a, size_t b) { return figures.refused[a] > figures.refused[b]; });
  order.resize(std::min(order.size(), kMostReasons));
  const auto all = static_cast<double>(figures.candidates);
  if (refused > 0) {
    bars_.push_back({tr("stand"), static_cast<double>(figures.candidates - refused) / all, true});
    for (const size_t n : order)
      bars_.push_back({QString::fromUtf8(acre::refusalName(static_cast<acre::Refusal>(n))),
          static_cast<double>(figures.refused[n]) / all, false});
  }
  QStringList said;
  for (const Bar& bar : bars_) said += tr("%1 %2").arg(bar.words, look::percent(bar.share));
  setToolTip(bars_.empty()
                 ? QString()
                 : tr("What became of %1 places that were drawn; the first reason counts.")
                       .arg(look::wholeNumber(static_cast<qint64>(figures.candidates))));
  setAccessibleName(said.join(QStringLiteral(", ")));
  setVisible(!bars_.empty());
  updateGeometry();
  update();
}

void ReasonBars::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const look::Tokens& t = look::tokens();
  p.setFont(look::font(look::Type::Caption));
  int y = 0;
  for (const Bar& bar : bars_) {
    p.setPen(bar.stands ? t.ink : t.soft);
    p.drawText(QRect(0, y, kWordsWide, kRow), Qt::AlignLeft | Qt::AlignVCenter, bar.words);
    const QRectF room(kWordsWide, y + 4, width() - kWordsWide - kFiguresWide, kRow - 8);
    p.setPen(Qt::NoPen);
    p.setBrush(t.rule);
    p.drawRect(QRectF(room.left(), room.center().y(), room.width(), 1));
    p.setBrush(bar.stands ? ink_ : t.soft);
    p.drawRect(
        QRectF(room.left(), room.top(), std::max(1.0, room.width() * bar.share), room.height()));
    p.setPen(bar.stands ? t.ink : t.soft);
    p.drawText(QRect(width() - kFiguresWide, y, kFiguresWide, kRow),
        Qt::AlignRight | Qt::AlignVCenter, look::percent(bar.share));
    y += kRow;
  }
}

}  // namespace app

#include "moc_reason_bars.cpp"
