/// Writing a picture to a file while the window goes on working.
#pragma once

#include <QObject>
#include <memory>
#include <stop_token>
#include <thread>

#include "output/map_writer.h"

namespace app {

struct ExportOptions {
  acre::SampleGrid grid;
  acre::Picture show;
  acre::Style style;
  acre::MapFormat format = acre::MapFormat::Png8;
  bool rivers = false;  ///< Of lines.
  bool legend = false;  ///< A column with title, seed, scale and colours; 8-bit only.
  QString file;

  /// Longest side of a picture with a legend, which is composed in memory.
  static constexpr int32_t kLongestWithLegend = 8192;
};

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
  acre::Status writeWithLegend();

  std::shared_ptr<const acre::World> world_;
  ExportOptions options_;
  std::stop_source stop_;
  std::jthread thread_;
};

}  // namespace app
