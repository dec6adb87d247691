#include "app/window/showing.h"

#include "output/legend.h"

namespace app {

Showing::Showing(Document& document, MapView& map, LegendCard& legend)
    : QObject(&map),
      document_(document),
      map_(map),
      legend_(legend),
      courier_(std::make_shared<Courier<Showing>>(this)),
      world_(document.world()) {
  connect(&document_, &Document::gestureEnded, this, [this] {
    if (document_.current()) refresh();
  });
}

Showing::~Showing() {
  courier_->close();
  stop_.request_stop();
}

void Showing::setPicture(const acre::Picture& picture) {
  chosen_ = picture;
  refresh();
}

void Showing::setUpTo(acre::StageId last) {
  upTo_ = last;
  refresh();
}

void Showing::setBorders(bool shown) {
  borders_ = shown;
  refresh();
}

ViewState Showing::state() const {
  const MapGeometry& g = map_.geometry();
  return {world_, chosen_, upTo_, borders_, map_.viewpoint(), g.centre, g.cellsPerPixel};
}

void Showing::show(const ViewState& state) {
  chosen_ = state.picture;
  upTo_ = state.upTo;
  borders_ = state.borders;
  refresh();
  map_.lookAt(state.viewpoint, state.centre, state.cellsPerPixel);
}

void Showing::refresh() {
  stop_.request_stop();
  // What the biomes are is the same whatever is made of the ground.
  if (upTo_ == kAll || upTo_ == acre::StageId::Biomes) return put(document_.world());
  acre::Recipe less = acre::upTo(planOf(*document_.world()).recipe(), upTo_);
  for (const auto& made : {document_.world(), world_})
    if (made && acre::planOf(*made).recipe() == less) return put(made);
  stop_ = {};
  document_.engine().executor().submit(acre::Priority::CoarseMap, stop_.get_token(),
      [courier = courier_, &engine = document_.engine(), less = std::move(less),
          stop = stop_.get_token()] {
        auto world = engine.compile(less);
        courier->deliver([stop, world = std::move(world)](Showing& self) {
          if (stop.stop_requested()) return;
          if (!world)  // A picture that it reads may have gone.
            return emit self.refused(QString::fromStdString(world.error().text()));
          self.put(*world);
        });
      });
}

void Showing::put(const std::shared_ptr<const acre::World>& world) {
  world_ = world;
  acre::Picture picture = chosen_;
  // A picture of something that went away, or was switched off, is none.
  if (!acre::checkPicture(*world, picture)) picture = {};
  if (!picture.isData()) {
    if (upTo_ <= acre::StageId::Climate)
      picture = {acre::PictureKind::Height, {}, {}, false};
    else if (upTo_ <= acre::StageId::Level && !picture.ofBiomes() && planOf(*world).biomes())
      picture = {acre::PictureKind::Biome, {}, {}, false};
  }
  picture.borders = borders_ && planOf(*world).biomes();
  map_.setEmptyNote(emptyNote(*world, picture));
  // What a drag does to the ground is seen against the same light.
  map_.show(world, picture, document_.inGesture() ? map_.scale() : nullptr);
  refreshLegend();
  emit pictureChanged();
}

QString Showing::emptyNote(const acre::World& world, const acre::Picture& picture) const {
  const acre::Recipe& recipe = planOf(world).recipe();
  if (picture.kind == acre::PictureKind::Composite || picture.kind == acre::PictureKind::Material) {
    if (!recipe.strataOn) return tr("Strata are switched off, so nothing has a material.");
    if (planOf(world).bandsAreEmpty())
      return tr("Strata: no band yet, so nothing has a material. Add one in Strata.");
  }
  if (!recipe.heightsOn) return tr("Heights take no part: flat at 0.");
  if (recipe.heights.layers.empty())
    return tr("Heights: no layer yet, flat at 0. Add one in Heights.");
  return {};
}

void Showing::refreshLegend() {
  legend_.setEntries(
      acre::legendOf(*world_, map_.picture(), int64_t{1} << map_.geometry().level()));
}

}  // namespace app

#include "moc_showing.cpp"
