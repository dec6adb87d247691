#include "app/sheet/export_job.h"

#include <QBuffer>
#include <QPdfWriter>
#include <QSvgGenerator>
#include <algorithm>

#include "base/atomic_file.h"
#include "output/carried_recipe.h"

namespace app {
namespace {

constexpr int kDotsPerInch = 96;

acre::Status checkSize(const acre::SampleGrid& grid) {
  constexpr int32_t kMost = ExportOptions::kLongestSheet;
  if (grid.width <= kMost && grid.length <= kMost) return acre::done();
  return acre::invalidInput(
      std::to_string(grid.width) + " x " + std::to_string(grid.length) + " pixels on a sheet",
      "size", "up to 8192 a side on a sheet, 65536 without anything around the map");
}

acre::Status writePng(const acre::World& world, const ExportOptions& options, const QImage& sheet,
    const std::stop_token& stop) {
  acre::TextPairs texts =
      acre::originTexts(world, options.map.grid, acre::nameOf(options.map.show));
  texts.emplace_back(acre::kRecipeText, acre::recipeToJson(planOf(world).recipe()));
  auto png =
      acre::PngWriter::create(options.file.toStdString(), static_cast<uint32_t>(sheet.width()),
          static_cast<uint32_t>(sheet.height()), acre::PngPixels::Rgb8, texts);
  if (!png) return png.error();
  for (int j = 0; j < sheet.height(); ++j) {
    if (stop.stop_requested()) return acre::cancelled();
    if (auto written = png->rowRgb(reinterpret_cast<const uint32_t*>(sheet.constScanLine(j)));
        !written)
      return written;
  }
  return png->finish();
}

acre::Status writeBytes(const QString& file, const QByteArray& bytes) {
  return acre::writeFile(
      file.toStdString(), {bytes.constData(), static_cast<size_t>(bytes.size())});
}

/// The map as a picture, letters and lines as themselves.
QByteArray pdfOf(const MapSheet& sheet, const QImage& map, const QString& title) {
  QByteArray bytes;
  QBuffer buffer(&bytes);
  buffer.open(QIODevice::WriteOnly);
  QPdfWriter pdf(&buffer);
  pdf.setTitle(title);
  pdf.setCreator(QStringLiteral("Kindred Acre"));
  pdf.setResolution(kDotsPerInch);
  constexpr double kPointsPerInch = 72;
  pdf.setPageSize(QPageSize(QSizeF(sheet.size()) * (kPointsPerInch / kDotsPerInch),
      QPageSize::Point, {}, QPageSize::ExactMatch));
  pdf.setPageMargins({});
  QPainter p(&pdf);
  p.setRenderHint(QPainter::LosslessImageRendering);
  sheet.paint(p, map);
  p.end();
  return bytes;
}

QByteArray svgOf(const MapSheet& sheet, const QImage& map, const acre::Recipe& recipe) {
  QByteArray bytes;
  QBuffer buffer(&bytes);
  buffer.open(QIODevice::WriteOnly);
  QSvgGenerator svg;
  svg.setOutputDevice(&buffer);
  svg.setTitle(QString::fromStdString(recipe.name));
  svg.setResolution(kDotsPerInch);
  svg.setSize(sheet.size());
  svg.setViewBox(QRect(QPoint(), sheet.size()));
  QPainter p(&svg);
  sheet.paint(p, map);
  p.end();
  // At its head, where whoever opens the picture looks for it.
  const qsizetype open = bytes.indexOf("<svg");
  const qsizetype head = bytes.indexOf('>', open) + 1;
  bytes.insert(head, QByteArray::fromStdString("\n" + acre::svgMetadata(recipe)));
  return bytes;
}

}  // namespace

acre::Result<DrawnMap> drawMap(const acre::World& world, const acre::MapRequest& request) {
  DrawnMap out;
  out.image = QImage(request.grid.width, request.grid.length, QImage::Format_RGB32);
  if (out.image.isNull())
    return acre::Error{acre::Error::Code::ResourceExhausted, "no memory for the picture", "size",
        "a smaller picture"};
  int row = 0;
  auto report = acre::paintMap(world, request, [&](const uint32_t* pixels) {
    std::copy_n(pixels, request.grid.width, reinterpret_cast<uint32_t*>(out.image.scanLine(row++)));
    return acre::done();
  });
  if (!report) return report.error();
  out.report = std::move(*report);
  return out;
}

acre::Result<QImage> drawSheet(const acre::World& world, const ExportOptions& options) {
  if (const acre::Status fits = checkSize(options.map.grid); !fits) return fits.error();
  const auto drawn = drawMap(world, options.map);
  if (!drawn) return drawn.error();
  if (options.parts == SheetParts::none()) return drawn->image;
  const MapSheet sheet(world, options.map, options.parts, options.lettering, options.command,
      drawn->report, options.changes);
  QImage out(sheet.size(), QImage::Format_RGB32);
  if (out.isNull())
    return acre::Error{acre::Error::Code::ResourceExhausted, "no memory for the sheet", "size",
        "a smaller picture"};
  QPainter p(&out);
  sheet.paint(p, drawn->image);
  p.end();
  return out;
}

ExportJob::ExportJob(
    std::shared_ptr<const acre::World> world, ExportOptions options, QObject* parent)
    : QObject(parent), world_(std::move(world)), options_(std::move(options)) {}

ExportJob::~ExportJob() {
  stop_.request_stop();
  if (thread_.joinable()) thread_.join();
}

void ExportJob::start() {
  thread_ = std::jthread([this] { run(); });
}

void ExportJob::run() {
  options_.map.threads = std::max(1u, std::thread::hardware_concurrency());
  options_.map.stop = stop_.get_token();
  options_.map.progress = [this](double share) {
    QMetaObject::invokeMethod(
        this, [this, share] { emit progressed(share); }, Qt::QueuedConnection);
  };
  acre::Status result = acre::done();
  if (options_.composed()) {
    result = writeSheet();
  } else if (const auto report = acre::writeMap(*world_, options_.map, options_.file.toStdString());
             !report) {
    result = report.error();
  }
  QMetaObject::invokeMethod(
      this,
      [this, result] {
        if (result)
          emit finished(options_.file);
        else if (result.error().code == acre::Error::Code::Cancelled)
          emit cancelled();
        else
          emit failed(QString::fromStdString(result.error().text()));
      },
      Qt::QueuedConnection);
}

acre::Status ExportJob::writeSheet() {
  if (options_.as == ExportOptions::As::Png) {
    const auto sheet = drawSheet(*world_, options_);
    if (!sheet) return sheet.error();
    return writePng(*world_, options_, *sheet, stop_.get_token());
  }
  if (acre::Status fits = checkSize(options_.map.grid); !fits) return fits;
  const auto drawn = drawMap(*world_, options_.map);
  if (!drawn) return drawn.error();
  const MapSheet sheet(*world_, options_.map, options_.parts, options_.lettering, options_.command,
      drawn->report, options_.changes);
  const acre::Recipe& recipe = planOf(*world_).recipe();
  return writeBytes(
      options_.file, options_.as == ExportOptions::As::Pdf
                         ? pdfOf(sheet, drawn->image, QString::fromStdString(recipe.name))
                         : svgOf(sheet, drawn->image, recipe));
}

}  // namespace app

#include "moc_export_job.cpp"
