/// Writing a picture to a file while the window goes on working.
#pragma once

#include <QObject>
#include <memory>
#include <stop_token>
#include <thread>

#include "app/sheet/map_sheet.h"

namespace app {

struct ExportOptions {
  /// What the file is: numbers or lines as the core writes them, or a sheet.
  enum class As { Data, Png, Pdf, Svg };

  As as = As::Png;
  acre::MapRequest map;  ///< Of sheets Png8.
  SheetParts parts = SheetParts::none();
  double lettering = 1;
  SheetChanges changes = {};  ///< Where the parts have them.
  QString command;            ///< What makes the picture again.
  QString file;

  /// Longest side of a sheet, which is composed in memory.
  static constexpr int32_t kLongestSheet = 8192;
  /// A PNG without anything around it is written in strips, of any size.
  bool composed() const {
    return as == As::Pdf || as == As::Svg || (as == As::Png && !(parts == SheetParts::none()));
  }
};

/// The pixels of a map, and what it shows.
struct DrawnMap {
  QImage image;
  acre::MapReport report;
};
acre::Result<DrawnMap> drawMap(const acre::World& world, const acre::MapRequest& request);
/// A whole sheet as a picture. Refuses maps longer than kLongestSheet.
acre::Result<QImage> drawSheet(const acre::World& world, const ExportOptions& options);

/// Ends with exactly one of finished, failed or cancelled, in the thread of its owner.
class ExportJob : public QObject {
  Q_OBJECT

 public:
  ExportJob(
      std::shared_ptr<const acre::World> world, ExportOptions options, QObject* parent = nullptr);
  ~ExportJob() override;  ///< Stops and waits.
  void start();
  void cancel() { stop_.request_stop(); }

 signals:
  void progressed(double share);
  void finished(const QString& file);
  void failed(const QString& reason);
  void cancelled();

 private:
  void run();
  acre::Status writeSheet();

  std::shared_ptr<const acre::World> world_;
  ExportOptions options_;
  std::stop_source stop_;
  std::jthread thread_;
};

}  // namespace app
