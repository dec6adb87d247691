#include "app/sheet/export_dialog.h"

#include <QClipboard>
#include <QGridLayout>
#include <QGuiApplication>
#include <QVBoxLayout>
#include <cmath>

#include "app/look/look.h"
#include "base/atomic_file.h"
#include "output/carried_recipe.h"
#include "world/demos.h"

namespace app {
namespace {

/// In the order of the choice.
struct Format {
  ExportOptions::As as;
  acre::MapFormat format;
  const char* ending;
  double bytesPerCell;  ///< At most.
};
using As = ExportOptions::As;
constexpr Format kFormats[] = {{As::Png, acre::MapFormat::Png8, ".png", 3},
    {As::Pdf, acre::MapFormat::Png8, ".pdf", 3}, {As::Svg, acre::MapFormat::Png8, ".svg", 4},
    {As::Data, acre::MapFormat::Png16, ".png", 2}, {As::Data, acre::MapFormat::Tiff, ".tif", 4},
    {As::Data, acre::MapFormat::Pgm, ".pgm", 2}, {As::Data, acre::MapFormat::Raw, ".raw", 4},
    {As::Data, acre::MapFormat::Csv, ".csv", 11}, {As::Data, acre::MapFormat::Svg, ".svg", 20},
    {As::Data, acre::MapFormat::GeoJson, ".geojson", 40}};

constexpr QSize kPreview(340, 300);
constexpr int kPauseMillis = 80;
constexpr int64_t kCalmFrom =
    4;  ///< Pictures of more cells a pixel are calm unless told otherwise.

}  // namespace

ExportDialog::ExportDialog(std::shared_ptr<const acre::World> world, ExportView view,
    Dialogs& dialogs, Settings& settings, QWidget* parent)
    : QDialog(parent),
      world_(std::move(world)),
      view_(std::move(view)),
      dialogs_(dialogs),
      settings_(settings),
      courier_(std::make_shared<Courier<ExportDialog>>(this)) {
  setWindowTitle(tr("Export picture"));
  auto* both = new QHBoxLayout(this);
  both->setSpacing(look::kSpace * 2);
  auto* column = new QVBoxLayout;
  column->setSpacing(look::kSpace);
  both->addLayout(column, 1);
  auto* title = new QLabel(tr("Export picture"));
  title->setFont(look::capitals());
  column->addWidget(title);
  auto* grid = new QGridLayout;
  grid->setColumnStretch(1, 1);
  buildForm(grid);
  column->addLayout(grid);
  buildParts(column);
  estimate_ = new QLabel;
  estimate_->setObjectName(QStringLiteral("export.estimate"));
  estimate_->setProperty("role", "caption");
  estimate_->setWordWrap(true);
  column->addWidget(estimate_);
  fault_ = new QLabel;
  fault_->setObjectName(QStringLiteral("export.fault"));
  fault_->setWordWrap(true);
  column->addWidget(fault_);
  progress_ = new QProgressBar;
  progress_->setRange(0, 1000);
  progress_->hide();
  column->addWidget(progress_);
  column->addStretch(1);
  auto* buttons = new QHBoxLayout;
  copy_ = new QPushButton(tr("Copy picture"));
  copy_->setObjectName(QStringLiteral("export.copy"));
  copy_->setToolTip(tr("Puts the picture, as it would be written, on the clipboard."));
  close_ = new QPushButton(tr("Close"));
  write_ = new QPushButton(tr("Write file…"));
  write_->setObjectName(QStringLiteral("export.write"));
  write_->setDefault(true);
  buttons->addWidget(copy_);
  buttons->addStretch(1);
  buttons->addWidget(close_);
  buttons->addWidget(write_);
  column->addLayout(buttons);
  picture_ = new QLabel;
  picture_->setObjectName(QStringLiteral("export.preview"));
  picture_->setAccessibleName(tr("How it will look"));
  picture_->setFixedSize(kPreview);
  picture_->setAlignment(Qt::AlignCenter);
  picture_->setText(tr("Drawing…"));
  both->addWidget(picture_, 0, Qt::AlignTop);
  pause_.setSingleShot(true);
  pause_.setInterval(kPauseMillis);
  connect(&pause_, &QTimer::timeout, this, &ExportDialog::preview);
  connect(copy_, &QPushButton::clicked, this, &ExportDialog::copy);
  connect(close_, &QPushButton::clicked, this, [this] {
    if (job_)
      job_->cancel();
    else
      reject();
  });
  connect(write_, &QPushButton::clicked, this, [this] {
    const QString file =
        dialogs_.saveFile(this, tr("Export picture"), tr("Pictures (*%1)").arg(ending()),
            QString::fromStdString(planOf(*world_).recipe().name) + ending());
    if (!file.isEmpty()) exportTo(file);
  });
  changes_ = {tr("itself as saved"), acre::differencesOf(view_.saved, planOf(*world_).recipe())};
  // As it was left.
  const int preset = settings_.exportPreset();
  format_->setCurrentIndex(std::clamp(settings_.exportFormat(), 0, format_->count() - 1));
  preset_->setCurrentIndex(std::clamp(preset, 0, preset_->count() - 1));
  takePreset(preset_->currentIndex());
  if (preset_->currentIndex() == Own) {
    const uint bits = settings_.exportParts();
    for (size_t n = 0; n < parts_.size(); ++n) {
      const QSignalBlocker quiet(parts_[n].first);
      parts_[n].first->setChecked(bits >> n & 1);
    }
  }
  connect(format_, &Choice::currentIndexChanged, this, &ExportDialog::describe);
  connect(preset_, &Choice::activated, this, &ExportDialog::takePreset);
  describe();
}

ExportDialog::~ExportDialog() {
  courier_->close();
}

void ExportDialog::buildForm(QGridLayout* grid) {
  format_ = new Choice;
  format_->setObjectName(QStringLiteral("export.show"));
  const bool wet = planOf(*world_).water() != nullptr;
  format_->addItems({tr("As on the map, PNG"), tr("The same, PDF: letters and lines as vectors"),
      tr("The same, SVG: letters and lines as vectors"), tr("Heights, PNG of 16 bits"),
      tr("Numbers, TIFF of 32-bit floating point"), tr("Numbers, PGM of 16 bits"),
      tr("Numbers, raw 32-bit floating point with a JSON header"), tr("Numbers, CSV"),
      wet ? tr("Contour lines and rivers, SVG") : tr("Contour lines, SVG"),
      wet ? tr("Contour lines and rivers, GeoJSON") : tr("Contour lines, GeoJSON")});
  preset_ = new Choice;
  preset_->setObjectName(QStringLiteral("export.preset"));
  preset_->setAccessibleName(tr("What stands around the map"));
  preset_->addItems({tr("The bare map"), tr("A sheet"), tr("A poster, twice as fine"),
      tr("A poster, four times as fine"), tr("Own choice")});
  const NumberSpec side{{1, acre::MapRequest::kLongestSide}, 1, true, true, tr("px")};
  width_ = new NumberField(side, QStringLiteral("export.width"));
  height_ = new NumberField(side, QStringLiteral("export.height"));
  step_ = new NumberField({{1, 4096}, 1, true, true, {}}, QStringLiteral("export.step"));
  for (NumberField* field : {width_, height_, step_}) {
    connect(field, &NumberField::edited, this, &ExportDialog::describe);
    connect(
        field, &NumberField::refused, this, [this](const QString& why) { fault_->setText(why); });
  }
  int row = 0;
  for (const auto& [words, control] :
      {std::pair<QString, QWidget*>(tr("Picture"), format_), {tr("Around it"), preset_},
          {tr("Width"), width_}, {tr("Height"), height_}, {tr("Cells a pixel"), step_}}) {
    grid->addWidget(new QLabel(words), row, 0);
    grid->addWidget(control, row++, 1);
  }
}

void ExportDialog::buildParts(QVBoxLayout* column) {
  auto* grid = new QGridLayout;
  const std::tuple<QString, const char*, bool SheetParts::*> offered[] = {
      {tr("title"), "title", &SheetParts::title}, {tr("legend"), "legend", &SheetParts::legend},
      {tr("scale bar"), "scale", &SheetParts::scale},
      {tr("coordinates"), "coordinates", &SheetParts::coordinates},
      {tr("area and origin"), "origin", &SheetParts::origin},
      {tr("command"), "command", &SheetParts::command}, {tr("light"), "light", &SheetParts::light},
      {tr("figures"), "figures", &SheetParts::figures},
      {tr("margin"), "margin", &SheetParts::margin},
      {tr("changes from"), "changes", &SheetParts::changes}};
  int n = 0;
  for (const auto& [words, name, part] : offered) {
    auto* tick = new Tick(words);
    tick->setObjectName(QStringLiteral("export.") + QLatin1String(name));
    connect(tick, &Tick::toggled, this, &ExportDialog::partChanged);
    grid->addWidget(tick, n / 3, n % 3);
    ++n;
    parts_.emplace_back(tick, part);
  }
  other_ = new Choice;
  other_->setObjectName(QStringLiteral("export.other"));
  other_->setAccessibleName(tr("The world that changes are told from"));
  other_->addItem(tr("itself as saved"));
  for (const auto* list : {&acre::demos(), &acre::starts()})
    for (const acre::Demo& demo : *list) other_->addItem(QString::fromStdString(demo.name));
  other_->addItem(tr("a file…"));
  connect(other_, &Choice::activated, this, &ExportDialog::chooseOther);
  grid->addWidget(other_, n / 3, n % 3, 1, 2);
  column->addLayout(grid);
  calm_ = new Tick(tr("calm: the mean colour of a pixel's cells"));
  calm_->setObjectName(QStringLiteral("export.calm"));
  calm_->setToolTip(
      tr("A coarse picture else takes one cell for each pixel, and single cells sparkle."));
  connect(calm_, &Tick::toggled, this, &ExportDialog::describe);
  column->addWidget(calm_);
}

void ExportDialog::chooseOther(int index) {
  const acre::Recipe& now = planOf(*world_).recipe();
  if (index == 0) {
    changes_ = {tr("itself as saved"), acre::differencesOf(view_.saved, now)};
    return describe();
  }
  QString source = other_->itemText(index);
  if (index == other_->count() - 1)
    source = dialogs_.openFile(
        this, tr("The world that changes are told from"), tr("Worlds (*.acre);;All files (*)"));
  if (source.isEmpty()) return;
  const auto recipe = acre::openRecipe(source.toStdString());
  if (!recipe) return fault_->setText(QString::fromStdString(recipe.error().text()));
  changes_ = {QString::fromStdString(recipe->name), acre::differencesOf(*recipe, now)};
  for (const auto& [tick, part] : parts_)
    if (part == &SheetParts::changes) tick->setChecked(true);
  describe();
}

/// The view as it stands at the level that it shows, or as much finer as a poster is.
void ExportDialog::takePreset(int preset) {
  const int finer = preset == PosterTwice ? 2 : preset == PosterFourTimes ? 4 : 1;
  lettering_ = finer;
  const int64_t level = int64_t{1} << view_.geometry.level();
  const int64_t step = std::max<int64_t>(1, level / finer);
  const double scale = view_.geometry.cellsPerPixel / static_cast<double>(level) * finer;
  for (const auto& [field, value] :
      {std::pair(width_, std::max(1.0, std::round(view_.geometry.size.width() * scale))),
          std::pair(height_, std::max(1.0, std::round(view_.geometry.size.height() * scale))),
          std::pair(step_, static_cast<double>(step))}) {
    field->setValue(value);
    field->setReference(value);
  }
  if (preset != Own) setParts(preset == Bare ? SheetParts::none() : SheetParts());
  {
    const QSignalBlocker quiet(calm_);
    calm_->setChecked(step > kCalmFrom);
  }
  describe();
}

SheetParts ExportDialog::parts() const {
  SheetParts out;
  for (const auto& [tick, part] : parts_) out.*part = tick->isChecked();
  return out;
}

void ExportDialog::setParts(const SheetParts& parts) {
  for (const auto& [tick, part] : parts_) {
    const QSignalBlocker quiet(tick);
    tick->setChecked(parts.*part);
  }
}

void ExportDialog::partChanged() {
  if (preset_->currentIndex() == Bare || preset_->currentIndex() == Sheet)
    preset_->setCurrentIndex(Own);
  describe();
}

/// How many samples a side of a pixel a calm picture takes, at this step; 1: it cannot be one.
int32_t ExportDialog::calmest() const {
  const auto step = static_cast<int64_t>(step_->value());
  for (const int32_t calm : {4, 2, 3})
    if (step % calm == 0) return calm;
  return 1;
}

ExportOptions ExportDialog::options() const {
  ExportOptions o;
  const Format& format = kFormats[static_cast<size_t>(format_->currentIndex())];
  o.as = format.as;
  acre::MapRequest& map = o.map;
  const auto width = static_cast<int32_t>(width_->value());
  const auto height = static_cast<int32_t>(height_->value());
  const auto step = static_cast<int64_t>(step_->value());
  const acre::Cell centre = view_.geometry.centre.cell;
  map.grid = {centre.x - width / 2 * step, centre.z - height / 2 * step, step, width, height};
  map.format = format.format;
  map.show = view_.show;
  map.style = view_.style;
  const bool coloured = format.as != As::Data;
  // Formats of numbers take heights where the map shows materials.
  if (map.format == acre::MapFormat::Png16 || (!coloured && !map.show.isData()))
    map.show = {acre::PictureKind::Height, {}, {}};
  if (isLines(map.format)) {
    if (map.style.contours <= 0) map.style.contours = 5;
    map.rivers = planOf(*world_).water() != nullptr;
  }
  if (coloured) {
    if (calm_->isChecked()) map.calm = calmest();
    o.parts = parts();
    o.lettering = lettering_;
    if (o.parts.changes) o.changes = changes_;
    o.command = view_.command(map);
  }
  return o;
}

QString ExportDialog::ending() const {
  return QLatin1String(kFormats[static_cast<size_t>(format_->currentIndex())].ending);
}

void ExportDialog::describe() {
  const ExportOptions o = options();
  const bool coloured = o.as != As::Data;
  for (const auto& [tick, part] : parts_) tick->setEnabled(coloured);
  other_->setEnabled(coloured);
  preset_->setEnabled(coloured);
  copy_->setEnabled(coloured);
  calm_->setEnabled(coloured && calmest() > 1);
  const acre::SampleGrid& grid = o.map.grid;
  const double cells = static_cast<double>(grid.width) * grid.length * o.map.calm * o.map.calm;
  // Measured on two cores: about 25 million cells a second, encoding included.
  const double seconds = cells / 25e6;
  const Format& format = kFormats[static_cast<size_t>(format_->currentIndex())];
  estimate_->setText(
      tr("%1 cells around %2, %3 · about %4 · at most %5 MB")
          .arg(look::wholeNumber(qRound64(cells)), look::wholeNumber(view_.geometry.centre.cell.x),
              look::wholeNumber(view_.geometry.centre.cell.z),
              seconds < 1 ? tr("a second") : tr("%1 s").arg(std::ceil(seconds)),
              look::wholeNumber(qRound64(std::ceil(
                  static_cast<double>(grid.width) * grid.length * format.bytesPerCell / 1e6)))));
  fault_->clear();
  pause_.start();
}

/// What is to come, from a few of its samples.
void ExportDialog::preview() {
  const ExportOptions o = options();
  if (o.as == As::Data) return picture_->setText(tr("A file of numbers or lines."));
  previewer_.start([courier = courier_, world = world_, o, ratio = devicePixelRatioF()](
                       const std::stop_token& stop) {
    const QSize room = kPreview * ratio;
    acre::MapRequest rough = o.map;
    rough.calm = 1;
    rough.stop = stop;
    const int32_t less =
        std::max({1, o.map.grid.width / room.width(), o.map.grid.length / room.height()});
    rough.grid.step *= less;
    rough.grid.width = std::max(1, rough.grid.width / less);
    rough.grid.length = std::max(1, rough.grid.length / less);
    // At once as it is without rivers and objects, which take time to be found.
    for (const bool bare : {true, false}) {
      rough.show.beforeWater = rough.show.beforeObjects = bare && !rough.show.ofWater();
      const auto drawn = drawMap(*world, rough);
      if (!drawn || stop.stop_requested()) return;
      const MapSheet sheet(
          *world, o.map, o.parts, o.lettering, o.command, drawn->report, o.changes);
      const double scale = std::min(static_cast<double>(room.width()) / sheet.size().width(),
          static_cast<double>(room.height()) / sheet.size().height());
      QImage small(
          (QSizeF(sheet.size()) * scale).toSize().expandedTo({1, 1}), QImage::Format_RGB32);
      QPainter p(&small);
      p.setRenderHint(QPainter::SmoothPixmapTransform);
      p.setRenderHint(QPainter::TextAntialiasing);
      p.scale(scale, scale);
      sheet.paint(p, drawn->image);
      p.end();
      small.setDevicePixelRatio(ratio);
      courier->deliver(
          [small](ExportDialog& self) { self.picture_->setPixmap(QPixmap::fromImage(small)); });
    }
  });
}

void ExportDialog::copy() {
  const ExportOptions o = options();
  copy_->setEnabled(false);
  copier_.start([courier = courier_, world = world_, o](const std::stop_token& stop) {
    ExportOptions whole = o;
    whole.map.stop = stop;
    whole.map.threads = std::max(1u, std::thread::hardware_concurrency());
    const auto sheet = drawSheet(*world, whole);
    if (stop.stop_requested()) return;
    courier->deliver([sheet](ExportDialog& self) {
      self.copy_->setEnabled(true);
      if (!sheet) return self.fault_->setText(QString::fromStdString(sheet.error().text()));
      QGuiApplication::clipboard()->setImage(*sheet);
      self.remember();
      emit self.copied();
    });
  });
}

void ExportDialog::remember() const {
  uint bits = 0;
  for (size_t n = 0; n < parts_.size(); ++n) bits |= uint{parts_[n].first->isChecked()} << n;
  settings_.setExport(format_->currentIndex(), preset_->currentIndex(), bits);
}

void ExportDialog::setRunning(bool running) {
  std::vector<QWidget*> all = {
      format_, preset_, width_, height_, step_, calm_, other_, copy_, write_};
  for (const auto& [tick, part] : parts_) all.push_back(tick);
  for (QWidget* w : all) w->setEnabled(!running);
  progress_->setVisible(running);
  progress_->setValue(0);
  close_->setText(running ? tr("Cancel") : tr("Close"));
  if (!running) describe();
}

void ExportDialog::exportTo(const QString& file) {
  ExportOptions o = options();
  o.file =
      file.endsWith(ending()) || file.startsWith(QStringLiteral("/dev/")) ? file : file + ending();
  std::vector<std::filesystem::path> written = {o.file.toStdString()};
  if (o.map.format == acre::MapFormat::Raw) written.push_back(o.file.toStdString() + ".json");
  if (const auto apart = acre::checkOutputs(written, view_.inputs); !apart) {
    fault_->setText(QString::fromStdString(apart.error().text()));
    return;
  }
  setRunning(true);
  job_ = std::make_unique<ExportJob>(world_, o);
  // All endings give the dialog back; the job goes once its signal has returned.
  const auto end = [this](const QString& fault) {
    job_.release()->deleteLater();
    setRunning(false);
    fault_->setText(fault);
  };
  connect(job_.get(), &ExportJob::progressed, this,
      [this](double share) { progress_->setValue(static_cast<int>(share * 1000)); });
  connect(job_.get(), &ExportJob::failed, this, end);
  connect(job_.get(), &ExportJob::cancelled, this,
      [end] { end(tr("Cancelled; nothing was written.")); });
  connect(job_.get(), &ExportJob::finished, this, [this, end](const QString& done) {
    end({});
    remember();
    emit exported(done);
    accept();
  });
  job_->start();
}

}  // namespace app

#include "moc_export_dialog.cpp"
