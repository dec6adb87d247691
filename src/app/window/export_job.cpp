#include "app/window/export_job.h"

#include <QImage>
#include <QPainter>
#include <algorithm>

#include "app/look/look.h"
#include "output/legend.h"

namespace app {

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
  acre::Status result = acre::done();
  if (options_.legend && options_.format == acre::MapFormat::Png8) {
    result = writeWithLegend();
  } else {
    acre::MapRequest request;
    request.grid = options_.grid;
    request.show = options_.show;
    request.style = options_.style;
    request.format = options_.format;
    request.rivers = options_.rivers;
    request.threads = std::max(1u, std::thread::hardware_concurrency());
    request.stop = stop_.get_token();
    request.progress = [this](double share) {
      QMetaObject::invokeMethod(
          this, [this, share] { emit progressed(share); }, Qt::QueuedConnection);
    };
    const auto report = acre::writeMap(*world_, request, options_.file.toStdString());
    if (!report) result = report.error();
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

acre::Status ExportJob::writeWithLegend() {
  const acre::SampleGrid& grid = options_.grid;
  if (grid.width > ExportOptions::kLongestWithLegend ||
      grid.length > ExportOptions::kLongestWithLegend)
    return acre::Error{acre::Error::Code::InvalidInput,
        std::to_string(grid.width) + " x " + std::to_string(grid.length) + " pixels with a legend",
        "size", "up to 8192 a side with a legend, 65536 without"};
  constexpr int kMargin = 24, kColumn = 230;
  const auto entries = acre::legendOf(*world_, options_.show);
  const int height =
      std::max(grid.length, 150 + static_cast<int>(entries.size()) * 24) + 2 * kMargin;
  QImage sheet(grid.width + kColumn + 3 * kMargin, height, QImage::Format_RGB32);
  if (sheet.isNull())
    return acre::Error{acre::Error::Code::ResourceExhausted, "no memory for the picture", "size",
        "a smaller picture"};
  // A printed sheet is always light, whatever the window wears.
  const QColor paper(0xFB, 0xF9, 0xF3), ink(0x1F, 0x2D, 0x3A), soft(0x66, 0x5D, 0x51);
  sheet.fill(paper);
  const acre::Palette palette(*world_, options_.show, options_.style);
  constexpr int32_t kRows = 64;
  for (int32_t row = 0; row < grid.length; row += kRows) {
    acre::SampleGrid strip = grid;
    strip.z += row * grid.step;
    strip.length = std::min(kRows, grid.length - row);
    const auto samples = acre::sampleWithRim(*world_, options_.show, strip, stop_.get_token());
    if (!samples) return samples.error();
    for (int32_t j = 0; j < strip.length; ++j)
      palette.paintRow(*samples, j, acre::Unassigned::Hatched,
          reinterpret_cast<uint32_t*>(sheet.scanLine(kMargin + row + j)) + kMargin);
    const double share = static_cast<double>(row + strip.length) / grid.length;
    QMetaObject::invokeMethod(
        this, [this, share] { emit progressed(share); }, Qt::QueuedConnection);
  }
  {
    QPainter p(&sheet);
    p.setPen(ink);
    p.drawRect(kMargin - 1, kMargin - 1, grid.width + 1, grid.length + 1);
    const int x = grid.width + 2 * kMargin;
    int y = kMargin + 18;
    const auto pixels = [](QFont f, int size) { return f.setPixelSize(size), f; };
    p.setFont(pixels(look::font(look::Type::Title), 21));
    p.drawText(x, y, QString::fromStdString(planOf(*world_).recipe().name));
    p.setFont(pixels(look::font(look::Type::Body), 13));
    const auto line = [&](const QString& text, const QColor& colour) {
      y += 20;
      p.setPen(colour);
      p.drawText(x, y, text);
    };
    line(tr("Seed %1").arg(QString::fromStdString(planOf(*world_).recipe().seed)), ink);
    line(tr("x %1 to %2")
             .arg(look::wholeNumber(grid.x),
                 look::wholeNumber(grid.x + (grid.width - 1) * grid.step)),
        soft);
    line(tr("z %1 to %2")
             .arg(look::wholeNumber(grid.z),
                 look::wholeNumber(grid.z + (grid.length - 1) * grid.step)),
        soft);
    line(grid.step == 1 ? tr("1 cell a pixel") : tr("1 of %1² cells a pixel").arg(grid.step), soft);
    // A scale bar of a hundred pixels.
    y += 18;
    p.setPen(QPen(ink, 1.5));
    p.drawLine(x, y, x + 100, y);
    for (int i = 0; i <= 4; ++i) p.drawLine(x + 25 * i, y, x + 25 * i, y - (i % 4 ? 3 : 6));
    p.drawText(x + 110, y + 4, tr("%1 cells").arg(look::wholeNumber(100 * grid.step)));
    y += 14;
    for (const auto& entry : entries) {
      const QRect swatch(x, y, 26, 16);
      p.fillRect(
          swatch, entry.hatched ? QBrush(look::hatch()) : QBrush(QColor::fromRgb(entry.argb)));
      p.setPen(QPen(ink, 1));
      p.drawRect(swatch);
      p.drawText(x + 36, y + 13, QString::fromStdString(entry.text));
      y += 24;
    }
  }
  auto png = acre::PngWriter::create(options_.file.toStdString(),
      static_cast<uint32_t>(sheet.width()), static_cast<uint32_t>(sheet.height()),
      acre::PngPixels::Rgb8, acre::originTexts(*world_, grid, acre::nameOf(options_.show)));
  if (!png) return png.error();
  for (int j = 0; j < sheet.height(); ++j) {
    if (stop_.stop_requested()) return acre::cancelled();
    if (auto written = png->rowRgb(reinterpret_cast<const uint32_t*>(sheet.constScanLine(j)));
        !written)
      return written;
  }
  return png->finish();
}

}  // namespace app
