#include "app/window/export_dialog.h"

#include <QGridLayout>
#include <QVBoxLayout>
#include <cmath>

#include "app/look/look.h"
#include "base/atomic_file.h"

namespace app {
namespace {

/// In the order of the choice.
struct Format {
  acre::MapFormat format;
  const char* ending;
  double bytesPerCell;  ///< At most.
};
constexpr Format kFormats[] = {{acre::MapFormat::Png8, ".png", 3},
    {acre::MapFormat::Png16, ".png", 2}, {acre::MapFormat::Tiff, ".tif", 4},
    {acre::MapFormat::Pgm, ".pgm", 2}, {acre::MapFormat::Raw, ".raw", 4},
    {acre::MapFormat::Csv, ".csv", 11}, {acre::MapFormat::Svg, ".svg", 20},
    {acre::MapFormat::GeoJson, ".geojson", 40}};

}  // namespace

ExportDialog::ExportDialog(std::shared_ptr<const acre::World> world, const MapGeometry& view,
    const acre::Picture& show, const acre::Style& style, Dialogs& dialogs,
    std::vector<std::filesystem::path> inputs, QWidget* parent)
    : QDialog(parent),
      world_(std::move(world)),
      inputs_(std::move(inputs)),
      view_(view),
      dialogs_(dialogs),
      picture_(show),
      style_(style) {
  setWindowTitle(tr("Export picture"));
  setMinimumWidth(420);
  auto* column = new QVBoxLayout(this);
  column->setSpacing(look::kSpace);
  auto* title = new QLabel(tr("Export picture"));
  title->setFont(look::capitals());
  column->addWidget(title);
  auto* grid = new QGridLayout;
  grid->setColumnStretch(1, 1);
  show_ = new Choice;
  show_->setObjectName(QStringLiteral("export.show"));
  const bool wet = planOf(*world_).water() != nullptr;
  show_->addItems({tr("As on the map, PNG"), tr("Heights, PNG of 16 bits"),
      tr("Numbers, TIFF of 32-bit floating point"), tr("Numbers, PGM of 16 bits"),
      tr("Numbers, raw 32-bit floating point with a JSON header"), tr("Numbers, CSV"),
      wet ? tr("Contour lines and rivers, SVG") : tr("Contour lines, SVG"),
      wet ? tr("Contour lines and rivers, GeoJSON") : tr("Contour lines, GeoJSON")});
  grid->addWidget(new QLabel(tr("Picture")), 0, 0);
  grid->addWidget(show_, 0, 1);
  const NumberSpec side{{1, acre::MapRequest::kLongestSide}, 1, true, true, tr("px")};
  width_ = new NumberField(side, QStringLiteral("export.width"));
  height_ = new NumberField(side, QStringLiteral("export.height"));
  step_ = new NumberField({{1, 4096}, 1, true, true, {}}, QStringLiteral("export.step"));
  // The view as it stands, at the level that it shows.
  const int64_t step = int64_t{1} << view.level();
  const double scale = view.cellsPerPixel / static_cast<double>(step);
  for (const auto& [field, value] :
      {std::pair(width_, std::max(1.0, std::round(view.size.width() * scale))),
          std::pair(height_, std::max(1.0, std::round(view.size.height() * scale))),
          std::pair(step_, static_cast<double>(step))}) {
    field->setValue(value);
    field->setReference(value);
    connect(field, &NumberField::edited, this, &ExportDialog::describe);
    connect(
        field, &NumberField::refused, this, [this](const QString& why) { fault_->setText(why); });
  }
  grid->addWidget(new QLabel(tr("Width")), 1, 0);
  grid->addWidget(width_, 1, 1);
  grid->addWidget(new QLabel(tr("Height")), 2, 0);
  grid->addWidget(height_, 2, 1);
  grid->addWidget(new QLabel(tr("Cells a pixel")), 3, 0);
  grid->addWidget(step_, 3, 1);
  legend_ = new Tick(tr("with legend, seed and scale"));
  legend_->setObjectName(QStringLiteral("export.legend"));
  grid->addWidget(legend_, 4, 1);
  column->addLayout(grid);
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
  auto* buttons = new QHBoxLayout;
  buttons->addStretch(1);
  close_ = new QPushButton(tr("Close"));
  write_ = new QPushButton(tr("Write file…"));
  write_->setObjectName(QStringLiteral("export.write"));
  write_->setDefault(true);
  buttons->addWidget(close_);
  buttons->addWidget(write_);
  column->addLayout(buttons);
  connect(show_, &Choice::currentIndexChanged, this, &ExportDialog::describe);
  connect(legend_, &Tick::toggled, this, &ExportDialog::describe);
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
  describe();
}

ExportOptions ExportDialog::options() const {
  ExportOptions o;
  const auto width = static_cast<int32_t>(width_->value());
  const auto height = static_cast<int32_t>(height_->value());
  const auto step = static_cast<int64_t>(step_->value());
  const acre::Cell centre = view_.centre.cell;
  o.grid = {centre.x - width / 2 * step, centre.z - height / 2 * step, step, width, height};
  o.format = kFormats[static_cast<size_t>(show_->currentIndex())].format;
  o.show = picture_;
  o.style = style_;
  const bool png = o.format == acre::MapFormat::Png8;
  // Formats of numbers take heights where the map shows materials.
  if (o.format == acre::MapFormat::Png16 || (!png && !o.show.isData()))
    o.show = {acre::PictureKind::Height, {}, {}};
  if (isLines(o.format)) {
    if (o.style.contours <= 0) o.style.contours = 5;
    o.rivers = planOf(*world_).water() != nullptr;
  }
  o.legend = legend_->isChecked() && png;
  return o;
}

QString ExportDialog::ending() const {
  return QLatin1String(kFormats[static_cast<size_t>(show_->currentIndex())].ending);
}

void ExportDialog::describe() {
  const ExportOptions o = options();
  legend_->setEnabled(o.format == acre::MapFormat::Png8);
  const double cells = static_cast<double>(o.grid.width) * o.grid.length;
  // Measured on two cores: about 25 million cells a second, encoding included.
  const double seconds = cells / 25e6;
  estimate_->setText(
      tr("%1 cells around %2, %3 · about %4 · at most %5 MB")
          .arg(look::wholeNumber(qRound64(cells)), look::wholeNumber(view_.centre.cell.x),
              look::wholeNumber(view_.centre.cell.z),
              seconds < 1 ? tr("a second") : tr("%1 s").arg(std::ceil(seconds)),
              look::wholeNumber(qRound64(std::ceil(
                  cells * kFormats[static_cast<size_t>(show_->currentIndex())].bytesPerCell /
                  1e6)))));
  fault_->clear();
}

void ExportDialog::setRunning(bool running) {
  for (QWidget* w : {static_cast<QWidget*>(show_), static_cast<QWidget*>(width_),
           static_cast<QWidget*>(height_), static_cast<QWidget*>(step_),
           static_cast<QWidget*>(legend_), static_cast<QWidget*>(write_)})
    w->setEnabled(!running);
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
  if (o.format == acre::MapFormat::Raw) written.push_back(o.file.toStdString() + ".json");
  if (const auto apart = acre::checkOutputs(written, inputs_); !apart) {
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
  connect(job_.get(), &ExportJob::finished, this, [this, end](const QString& written) {
    end({});
    emit exported(written);
    accept();
  });
  job_->start();
}

}  // namespace app
