#include "app/biome/slice_charts.h"

#include <QHelpEvent>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QToolTip>
#include <algorithm>

#include "app/look/look.h"
#include "output/picture.h"

namespace app {
namespace {

constexpr int kSide = 40;
constexpr int kGap = 6;

}  // namespace

SliceCharts::SliceCharts(QWidget* parent) : QWidget(parent) {
  setObjectName(QStringLiteral("slices"));
  setFixedWidth(sizeHint().width());
  setFocusPolicy(Qt::StrongFocus);
  setAccessibleName(tr("Altitude slices"));
}

void SliceCharts::setSlices(const acre::Recipe& recipe, const acre::Chart& chart,
    const std::vector<float>& altitudes, const std::vector<double>& shares) {
  tiles_.clear();
  std::vector<QRgb> inks = {0};
  for (const acre::Biome& b : recipe.biomes.list)
    inks.push_back(qRgb(b.colour.red, b.colour.green, b.colour.blue));
  std::vector<float> x(kSide), y(kSide), altitude(kSide);
  std::vector<acre::BiomeIndex> row(kSide);
  for (int i = 0; i < kSide; ++i)
    x[static_cast<size_t>(i)] = acre::partEdge(chart.x(), 2 * i + 1, 2 * kSide);
  for (int s = 0; s < chart.slices(); ++s) {
    const auto at = static_cast<size_t>(s);
    Tile tile;
    if (at < recipe.biomes.slices.size())
      tile.name = QString::fromStdString(recipe.biomes.slices[at].name);
    tile.picture = QImage(kSide, kSide, QImage::Format_RGB32);
    tile.uncovered = chart.uncovered(s);
    if (at < shares.size()) tile.share = shares[at];
    std::fill(altitude.begin(), altitude.end(), at < altitudes.size() ? altitudes[at] : 0.0f);
    for (int j = 0; j < kSide; ++j) {
      std::fill(y.begin(), y.end(), acre::partEdge(chart.y(), 2 * (kSide - 1 - j) + 1, 2 * kSide));
      chart.lookUp(acre::plainKernels(), kSide, x.data(), y.data(), altitude.data(), row.data());
      auto* line = reinterpret_cast<QRgb*>(tile.picture.scanLine(j));
      for (size_t i = 0; i < kSide; ++i)
        line[i] =
            row[i] == acre::kNoBiome ? acre::hatchAt(static_cast<int64_t>(i), j) : inks[row[i]];
    }
    tiles_.push_back(std::move(tile));
  }
  chosen_ = std::clamp(chosen_, 0, std::max(0, static_cast<int>(tiles_.size()) - 1));
  choose(chosen_);
  setVisible(tiles_.size() > 1);
  update();
}

void SliceCharts::choose(int slice) {
  chosen_ = slice;
  if (static_cast<size_t>(slice) < tiles_.size()) {
    const Tile& tile = tiles_[static_cast<size_t>(slice)];
    setAccessibleDescription(tr("%1, %2 of %3 from the lowest, %4 of the world")
                                 .arg(tile.name)
                                 .arg(slice + 1)
                                 .arg(tiles_.size())
                                 .arg(look::percent(tile.share)));
  }
  update();
}

QRect SliceCharts::tileRect(int slice) const {
  const int count = static_cast<int>(tiles_.size());
  const int room = std::max(1, (height() - 4) / std::max(1, count));
  const int tall = std::min(kSide + 20, room - 2);
  const int fromTop = count - 1 - slice;
  return {0, 2 + fromTop * std::min(room, kSide + 20 + kGap), width() - 4, tall};
}

void SliceCharts::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const look::Tokens& t = look::tokens();
  p.setFont(look::font(look::Type::Caption));
  for (int s = 0; s < static_cast<int>(tiles_.size()); ++s) {
    const Tile& tile = tiles_[static_cast<size_t>(s)];
    const QRect box = tileRect(s);
    const bool chosen = s == chosen_;
    if (chosen) p.fillRect(box, t.chosen);
    const int tall = std::max(8, box.height() - 16);
    const QRect picture(box.left() + 4, box.top() + 2, std::min(kSide, box.width() - 8), tall);
    p.drawImage(picture, tile.picture);
    p.setPen(QPen(chosen ? t.madder : t.edge, chosen ? 2 : 1));
    p.drawRect(picture.adjusted(0, 0, -1, -1));
    p.setPen(t.ink);
    p.drawText(QRect(box.left() + 4, picture.bottom() + 1, box.width() - 4, 14),
        Qt::AlignLeft | Qt::AlignVCenter,
        p.fontMetrics().elidedText(tile.name, Qt::ElideRight, box.width() - 4));
  }
  if (hasFocus()) {
    p.setPen(QPen(t.ink, 2));
    p.drawRect(rect().adjusted(1, 1, -1, -1));
  }
}

void SliceCharts::mousePressEvent(QMouseEvent* e) {
  for (int s = 0; s < static_cast<int>(tiles_.size()); ++s)
    if (tileRect(s).contains(e->position().toPoint())) emit sliceChosen(s);
}

void SliceCharts::keyPressEvent(QKeyEvent* e) {
  const int to = chosen_ + (e->key() == Qt::Key_Up ? 1 : e->key() == Qt::Key_Down ? -1 : 0);
  if (to == chosen_) return QWidget::keyPressEvent(e);
  if (to >= 0 && to < static_cast<int>(tiles_.size())) emit sliceChosen(to);
}

bool SliceCharts::event(QEvent* e) {
  if (e->type() != QEvent::ToolTip) return QWidget::event(e);
  const auto* help = static_cast<QHelpEvent*>(e);
  for (int s = 0; s < static_cast<int>(tiles_.size()); ++s) {
    if (!tileRect(s).contains(help->pos())) continue;
    const Tile& tile = tiles_[static_cast<size_t>(s)];
    QToolTip::showText(help->globalPos(),
        tr("%1: %2 of the world; %3 of its chart uncovered")
            .arg(tile.name, look::percent(tile.share), look::percent(tile.uncovered)),
        this);
  }
  return true;
}

}  // namespace app

#include "moc_slice_charts.cpp"
