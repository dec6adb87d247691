#include "app/window/panes.h"

#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

#include "app/look/look.h"
#include "app/overlay/river_line.h"

namespace app {
namespace {

constexpr int kLeastSmall = 60;
constexpr int kLeastLarge = 160;

}  // namespace

Panes::Panes(Document& document, MapView* map, QWidget* parent)
    : QWidget(parent), document_(document), map_(map) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  splitter_ = new QSplitter(Qt::Vertical);
  splitter_->setObjectName(QStringLiteral("panes"));
  splitter_->setChildrenCollapsible(false);
  splitter_->setHandleWidth(5);
  column->addWidget(splitter_);
  section_ = new SectionView(document);
  section_->setOverlays(&map_->overlays());
  overview_ = new SideOverview(document);
  walk_ = new WalkPane(document);
  bench_ = new TreeBench(document);
  connect(bench_, &TreeBench::closed, this, [this] { setLarge(Large::Map); });
  connect(splitter_, &QSplitter::splitterMoved, this, [this] {
    small_ = splitter_->sizes()[1];
    emit smallHeightChanged(small_);
  });
  arrange();
  connect(map_, &MapView::sectionChanged, this, &Panes::followLine);
  connect(map_, &MapView::viewChanged, this, &Panes::followLine);
  connect(map_, &MapView::hovered, this, [this](bool inside, qint64 x, qint64 z) {
    section_->setHair(inside ? map_->alongLine({x, z}) : -1);
  });
  connect(section_, &SectionView::hovered, this, [this](double at, const QString& what) {
    map_->setLineHair(at);
    section_->setHair(at);
    emit told(what);
  });
  connect(section_, &SectionView::cutChanged, this, [this] {
    const auto [low, high] = section_->range();
    overview_->setView(map_->sectionLine(), low, high);
  });
  connect(overview_, &SideOverview::lookedAt, this, [this](qint64 x) {
    map_->goTo({x, map_->viewpoint().cell.z});
    map_->resetLine();
  });
  connect(section_, &SectionView::plumbRequested, this, &Panes::plumbRequested);
  connect(section_, &SectionView::refused, this, &Panes::refused);
  LongProfile& river = section_->river();
  connect(&river, &LongProfile::pointChanged, this, [this](int point, const QString& what) {
    drawRiver(point);
    emit told(what);
  });
  connect(&river, &LongProfile::placeChosen, this,
      [this](qint64 x, qint64 z) { emit plumbRequested(x, 0, z); });
  connect(&river, &LongProfile::closed, this, [this] { showRiver(nullptr, {}); });
  WalkView& walk = walk_->view();
  connect(&walk, &WalkView::moved, this, &Panes::followWalk);
  connect(&walk, &WalkView::plumbRequested, this, &Panes::plumbRequested);
  connect(&walk, &WalkView::refused, this, &Panes::refused);
  connect(&walk, &WalkView::changed, this, [this] {
    if (large_ != Large::Walk) return;
    emit measured(walk_->figures());
    const auto hit = walk_->view().aimed();
    if (!hit) return emit told({});
    emit told(tr("x %1 y %2 z %3 · %4 · %5 cells away")
                  .arg(look::wholeNumber(hit->x))
                  .arg(look::wholeNumber(hit->y))
                  .arg(look::wholeNumber(hit->z))
                  .arg(QString::fromStdString(
                      planOf(*document_.world()).catalogue().materialId(hit->material)))
                  .arg(hit->distance, 0, 'f', 1));
  });
  connect(map_, &MapView::viewpointMoved, this, [this] {
    // The eye goes where the viewpoint is put, unless it is the eye that moves it.
    if (following_ || large_ != Large::Walk) return;
    walk_->view().goTo(map_->viewpoint().cell);
  });
}

void Panes::arrange() {
  const std::pair<Large, QWidget*> all[] = {
      {Large::Map, map_}, {Large::Section, section_}, {Large::Walk, walk_}, {Large::Trees, bench_}};
  // The map's partner is the section; that of the others is the map.
  const Large partner = large_ == Large::Map ? Large::Section : Large::Map;
  const auto of = [&](Large kind) {
    return std::find_if(std::begin(all), std::end(all), [&](const auto& one) {
      return one.first == kind;
    })->second;
  };
  QWidget* const large = of(large_);
  QWidget* const small = sideways_ && large_ == Large::Section ? overview_ : of(partner);
  splitter_->insertWidget(0, large);
  splitter_->insertWidget(1, small);
  for (QWidget* widget :
      std::initializer_list<QWidget*>{map_, section_, walk_, bench_, overview_}) {
    if (splitter_->indexOf(widget) < 0) splitter_->addWidget(widget);
    widget->setMinimumHeight(widget == large ? kLeastLarge : kLeastSmall);
    widget->setVisible(widget == large || (widget == small && smallShown_));
  }
  share();
  followLine();
}

/// The small pane keeps its height whatever the window's is.
void Panes::share() {
  const int wanted = small_ > 0                ? small_
                     : look::isWide(*window()) ? look::kWideSmallPane
                                               : look::kSmallPane;
  const int small =
      std::clamp(wanted, kLeastSmall, std::max(kLeastSmall, height() - kLeastLarge - 5));
  splitter_->setSizes({std::max(1, height() - small - splitter_->handleWidth()), small, 0, 0, 0});
}

void Panes::setSmallHeight(int pixels) {
  small_ = pixels;
  share();
}

void Panes::resizeEvent(QResizeEvent* e) {
  QWidget::resizeEvent(e);
  share();
}

void Panes::setLarge(Large large) {
  if (large == large_) return;
  const bool walks = large == Large::Walk;
  const acre::Cell viewpoint = map_->viewpoint().cell;  // The eye moves it as soon as it is there.
  large_ = large;
  arrange();
  if (walks) {
    walk_->refresh();
    walk_->view().goTo(viewpoint);
  }
  focusLarge();
  emit largeChanged(large);
}

void Panes::growTree(const QString& style) {
  setLarge(Large::Trees);
  bench_->showStyle(style);
}

void Panes::setSmallShown(bool shown) {
  if (shown == smallShown_) return;
  smallShown_ = shown;
  arrange();
}

void Panes::showRiver(std::shared_ptr<const acre::RiverProfile> profile, const QString& name) {
  shownRiver_ = std::move(profile);
  riverWorld_ = shownRiver_ ? document_.world() : nullptr;
  riverName_ = name;
  section_->river().setRiver(shownRiver_, name);
  section_->river().setGeometry(section_->rect());
  drawRiver(-1);
}

void Panes::ringLake(qint64 x, qint64 z, const QString& name) {
  showRiver(nullptr, {});
  riverWorld_ = document_.world();
  map_->overlays().set(Over::River, std::make_shared<PlaceRing>(acre::Cell{x, z}, name));
}

void Panes::drawRiver(int point) {
  map_->overlays().set(Over::River,
      shownRiver_ ? std::make_shared<RiverLine>(shownRiver_, riverName_, point) : nullptr);
}

void Panes::focusLarge() {
  (large_ == Large::Map          ? static_cast<QWidget*>(map_)
      : large_ == Large::Section ? static_cast<QWidget*>(section_)
      : large_ == Large::Trees   ? static_cast<QWidget*>(&bench_->canvas())
                                 : static_cast<QWidget*>(&walk_->view()))
      ->setFocus();
}

void Panes::refresh() {
  if (riverWorld_ && riverWorld_ != document_.world()) showRiver(nullptr, {});
  walk_->refresh();
  const bool sideways = planOf(*document_.world()).recipe().frame.kind == acre::WorldKind::Side;
  if (std::exchange(sideways_, sideways) != sideways) arrange();
  if (section_->isVisible()) section_->refresh();
  if (overview_->isVisible()) overview_->refresh();
}

void Panes::followLine() {
  section_->setLine(map_->sectionLine());
  // Under the map a line that runs straight east keeps the map's x axis.
  const Place &a = map_->sectionLine().a, &b = map_->sectionLine().b;
  const bool level = a.cell.z == b.cell.z && large_ == Large::Map;
  if (!level) return section_->setSpan({});
  const QPointF corner = map_->pictureRect().topLeft();
  const QPointF from = map_->geometry().toScreen(a.cell, 0.5, 0.5) + corner;
  const QPointF to = map_->geometry().toScreen(b.cell, 0.5, 0.5) + corner;
  const bool fits = std::abs(to.x() - from.x()) > 40 && std::abs(to.x() - from.x()) < 4000;
  section_->setSpan(fits ? std::optional(std::pair(from.x(), to.x())) : std::nullopt);
}

void Panes::followWalk() {
  const acre::Eye& eye = walk_->view().walker().eye;
  if (large_ != Large::Walk || map_->viewpoint().cell == acre::Cell{eye.cellX, eye.cellZ}) return;
  following_ = true;
  map_->goTo({eye.cellX, eye.cellZ});
  following_ = false;
}

}  // namespace app

#include "moc_panes.cpp"
