/// Every colour, font and measure of the interface, in one place.
#pragma once

#include <QColor>
#include <QFont>
#include <QPointF>
#include <QString>

class QApplication;
class QImage;
class QPainter;
class QRectF;
class QWidget;

namespace app::look {

/// Colours by use; see the members' comments for what each may mean.
struct Tokens {
  QColor paper;      ///< Window ground.
  QColor sheet;      ///< Cards, fields, the map's margin.
  QColor ink;        ///< Text and lines.
  QColor soft;       ///< Captions and units.
  QColor madder;     ///< The viewpoint and what is chosen; nothing else.
  QColor verdigris;  ///< Work in progress.
  QColor ochre;      ///< The warning mark alone; its words are ink.
  QColor edge;       ///< Outlines of fields and handles.
  QColor rule;       ///< Ornamental lines.
  QColor chosen;     ///< Ground of a chosen row.
};

/// The tokens in force.
const Tokens& tokens();
bool isNight();

/// Sets palette, fonts and style of the application; call again to change between day and night.
void apply(QApplication& application, bool night);

enum class Type { Caption, Body, Head, Title, Figure };
QFont font(Type type);
/// Lettering on the map: the serif face.
QFont mapFont();
/// Capitals with open spacing, for titles of panels.
QFont capitals();

// Measures in pixels at 96 dpi.
inline constexpr int kSpace = 8;
inline constexpr int kDragThreshold = 6;  ///< A press becomes a drag.
inline constexpr int kControl = 28;
inline constexpr int kTableControl = 24;
inline constexpr int kEditorWidth = 402, kWideEditorWidth = 480;
inline constexpr int kTitleRow = 40;
inline constexpr int kStrip = 48, kWideStrip = 104;
inline constexpr int kSmallPane = 150, kWideSmallPane = 220;

/// The window fills a screen of 1920 x 1080 or more: its parts are larger, drawers stand beside the
/// map.
bool isWide(const QWidget& window);

/// Where the lettering of a place begins, beside a viewpoint that stands on it.
inline constexpr QPointF kBesideStation{15, -9};

/// The hatch of unassigned ground, one period: 8 x 8 pixels, to be used as a brush.
const QImage& hatch();

/// Fills with a colour that lets what is under it through. Qt's painter would hand tall areas of
/// that to other threads, and wait for these while all processors generate.
void fillThin(QPainter& p, const QRect& area, const QColor& colour);
/// Text with a halo of the sheet's colour, for lettering on the map.
void drawHaloText(QPainter& painter, QPointF baseline, const QString& text);

/// Minus signs and grouping as people read them: "−12,345".
QString wholeNumber(qint64 value);
/// Shortest form that reads back equal, with a real minus sign.
QString number(double value);
/// A figure to be read at a glance: whole from 100 on, else with one to three places.
QString figure(double value);
/// A per cent with one digit: "41.2 %".
QString percent(double share);

}  // namespace app::look
