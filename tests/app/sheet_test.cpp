// Maps as sheets: what stands on them, in which files, and the worlds that they carry.
#include <QClipboard>
#include <QMimeData>
#include <QProcess>
#include <QXmlStreamReader>
#include <QtTest>

#include "app/sheet/export_dialog.h"
#include "app/window_desk.h"
#include "base/atomic_file.h"
#include "output/carried_recipe.h"
#include "suite.h"
#include "world/world.h"

class SheetTest : public QObject, protected WindowDesk {
  Q_OBJECT

  ExportDialog& dialog() { return *child<ExportDialog>("export"); }
  void openDialog() {
    child<QAction>("file.export")->trigger();
    QVERIFY(dialog().isVisible());
  }
  void choose(const char* name, int index) {
    auto* choice = dialog().findChild<Choice*>(QString::fromLatin1(name));
    choice->setCurrentIndex(index);
    emit choice->activated(index);
  }
  Tick& tick(const char* name) { return *dialog().findChild<Tick*>(QString::fromLatin1(name)); }
  void exportTo(const QString& file) {
    QSignalSpy exported(&dialog(), &ExportDialog::exported);
    dialog().exportTo(file);
    QTRY_COMPARE_WITH_TIMEOUT(exported.size(), 1, 60000);
    QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
  }
  void settle() { QTRY_VERIFY(window_->document().current() && map().settled()); }

 private slots:
  void initTestCase() { makeEngine(); }
  void init() {
    openDry("saltfen-reach");
    settle();
  }
  void cleanup() { window_.reset(); }

  /// The map on a sheet is the map; without parts there is nothing else.
  void theMapIsWholeOnItsSheet() {
    openDialog();
    choose("export.preset", 1);
    ExportOptions o = dialog().options();
    o.map.grid.width = 300;
    o.map.grid.length = 220;
    const DrawnMap drawn = drawMap(world(), o.map).value();
    const MapSheet sheet(world(), o.map, o.parts, 1, o.command, drawn.report);
    const QImage whole = drawSheet(world(), o).value();
    QCOMPARE(whole.size(), sheet.size());
    QVERIFY(whole.width() > 300 + 200 && whole.height() > 220 + 60);
    QCOMPARE(whole.copy(sheet.map()), drawn.image);
    // Each part that is left out leaves its place; without any the map alone is left.
    for (const auto& [name, part] :
        {std::pair("export.title", &SheetParts::title), {"export.margin", &SheetParts::margin},
            {"export.coordinates", &SheetParts::coordinates},
            {"export.command", &SheetParts::command}}) {
      ExportOptions less = o;
      less.parts.*part = false;
      const QImage smaller = drawSheet(world(), less).value();
      QVERIFY2(smaller.height() < whole.height(), name);
      QVERIFY(tick(name).isChecked());
    }
    o.parts = SheetParts::none();
    QCOMPARE(drawSheet(world(), o).value(), drawn.image);
    // Posters have larger letters on a finer map.
    choose("export.preset", 2);
    QCOMPARE(dialog().options().lettering, 2.0);
    QVERIFY(dialog().options().map.grid.width >= 2 * map().geometry().size.width() - 2);
    // More than can be composed is refused in words.
    o.parts = {};
    o.map.grid.width = 9000;
    QVERIFY(!drawSheet(world(), o).ok());
    dialog().reject();
  }

  /// Who has the picture has the world: PNG and SVG; opened, it is one without a file.
  void picturesCarryTheirWorld() {
    acre::Recipe mine = window_->document().recipe();
    mine.seed = "sheet & <seed>";
    QVERIFY(window_->document().change(QStringLiteral("Seed"), mine));
    settle();
    for (const int format : {0, 2}) {
      const QString file =
          dir_.filePath(format == 0 ? QStringLiteral("sheet.png") : QStringLiteral("sheet.svg"));
      openDialog();
      choose("export.preset", 1);
      choose("export.show", format);
      exportTo(file);
      const auto carried = acre::openRecipe(file.toStdString());
      QVERIFY2(carried.ok(), carried.ok() ? "" : carried.error().text().c_str());
      QVERIFY(*carried == mine);
      answers_.unsaved = Dialogs::Unsaved::Discard;
      child<QAction>("file.new")->trigger();
      QVERIFY(!(window_->document().recipe() == mine));
      // Dropped on the window.
      QMimeData dropped;
      dropped.setUrls({QUrl::fromLocalFile(file)});
      QDragEnterEvent enter({10, 10}, Qt::CopyAction, &dropped, Qt::LeftButton, Qt::NoModifier);
      QCoreApplication::sendEvent(window_.get(), &enter);
      QVERIFY(enter.isAccepted());
      QDropEvent drop({10, 10}, Qt::CopyAction, &dropped, Qt::LeftButton, Qt::NoModifier);
      QCoreApplication::sendEvent(window_.get(), &drop);
      QVERIFY2(window_->document().recipe() == mine, qPrintable(window_->notice()));
      QVERIFY(window_->document().file().isEmpty());
    }
    // A picture of something else carries none, and nothing is lost.
    QImage other(8, 8, QImage::Format_RGB32);
    other.fill(Qt::white);
    const QString bare = dir_.filePath(QStringLiteral("other.png"));
    QVERIFY(other.save(bare));
    QVERIFY(!window_->openWorld(bare));
    QVERIFY2(window_->notice().contains(QStringLiteral("carries no recipe")),
        qPrintable(window_->notice()));
    QVERIFY(window_->document().recipe() == mine);
  }

  /// Legend, title and seed are text in both, the map a picture.
  void lettersAreTextInVectorFiles() {
    const auto legend = acre::legendOf(world(), map().picture());
    openDialog();
    choose("export.preset", 1);
    choose("export.show", 2);
    const QString svg = dir_.filePath(QStringLiteral("words.svg"));
    exportTo(svg);
    QFile in(svg);
    QVERIFY(in.open(QIODevice::ReadOnly));
    QXmlStreamReader xml(&in);
    QString words;
    int images = 0;
    while (!xml.atEnd()) {
      xml.readNext();
      if (xml.isStartElement() && xml.name() == QLatin1String("image")) ++images;
      if (xml.isStartElement() && xml.name() == QLatin1String("text"))
        words += xml.readElementText(QXmlStreamReader::IncludeChildElements) + ' ';
    }
    QVERIFY2(!xml.hasError(), qPrintable(xml.errorString()));
    QCOMPARE(images, 1);
    QVERIFY(words.contains(QStringLiteral("Saltfen Reach")));
    QVERIFY(words.contains(QStringLiteral("heather-41")));
    QVERIFY(words.contains(QStringLiteral("acre map")));
    openDialog();
    choose("export.show", 1);
    const QString pdf = dir_.filePath(QStringLiteral("words.pdf"));
    exportTo(pdf);
    QProcess reader;
    reader.start(
        QStringLiteral("pdftotext"), {QStringLiteral("-layout"), pdf, QStringLiteral("-")});
    QVERIFY(reader.waitForFinished());
    QCOMPARE(reader.exitCode(), 0);
    // Letters that are joined are told as one.
    const QString read =
        QString::fromUtf8(reader.readAllStandardOutput()).normalized(QString::NormalizationForm_KC);
    QVERIFY2(read.contains(QStringLiteral("Saltfen Reach")), qPrintable(read));
    QVERIFY(read.contains(QStringLiteral("heather-41")));
    // What is there, and nothing that is not.
    int told = 0, untold = 0;
    for (const acre::LegendEntry& entry : legend) {
      const QString first = QString::fromStdString(entry.text).section(',', 0, 0);
      (words.contains(first) ? told : untold) += 1;
      QVERIFY2(read.contains(first) == words.contains(first), qPrintable(first + "\n" + read));
    }
    QVERIFY(told >= 3);
    QVERIFY(untold >= 1);
  }

  /// What differs from the world as it was saved, or from another, stands on the sheet.
  void theSheetTellsWhatWasChanged() {
    acre::Recipe next = window_->document().recipe();
    next.heights.layers[1].amplitude = 7.25;
    QVERIFY(window_->document().change(QStringLiteral("Hills"), next));
    settle();
    openDialog();
    choose("export.preset", 1);
    const QSize without = drawSheet(world(), dialog().options()).value().size();
    tick("export.changes").setChecked(true);
    const ExportOptions o = dialog().options();
    QCOMPARE(o.changes.all.size(), size_t{1});
    QCOMPARE(o.changes.all[0].pointer, std::string("/heights/layers/id:hills/amplitude"));
    QVERIFY(drawSheet(world(), o).value().height() >= without.height());
    choose("export.show", 2);
    const QString file = dir_.filePath(QStringLiteral("changes.svg"));
    exportTo(file);
    QFile svg(file);
    QVERIFY(svg.open(QIODevice::ReadOnly));
    QString words;
    for (QXmlStreamReader xml(&svg); !xml.atEnd(); xml.readNext())
      if (xml.isCharacters()) words += xml.text().toString() + QLatin1Char(' ');
    QVERIFY2(words.contains(QStringLiteral("7.25")), qPrintable(words));
    // From another world.
    openDialog();
    choose("export.other", 1);
    QVERIFY(dialog().options().changes.all.size() > 10);
    answers_.open = QStringLiteral("/nowhere");
    auto* other = dialog().findChild<Choice*>(QStringLiteral("export.other"));
    choose("export.other", other->count() - 1);
    QVERIFY(!dialog().findChild<QLabel*>(QStringLiteral("export.fault"))->text().isEmpty());
  }

  /// The dialog shows what is to come, keeps what was chosen, and copies it.
  void theDialogRemembersAndCopies() {
    openDialog();
    auto* shown = dialog().findChild<QLabel*>(QStringLiteral("export.preview"));
    QTRY_VERIFY_WITH_TIMEOUT(!shown->pixmap(Qt::ReturnByValue).isNull(), 30000);
    const QImage bare = shown->pixmap(Qt::ReturnByValue).toImage();
    choose("export.preset", 1);
    QTRY_VERIFY_WITH_TIMEOUT(shown->pixmap(Qt::ReturnByValue).toImage() != bare, 30000);
    // A part of one's own choice.
    tick("export.legend").setChecked(false);
    QCOMPARE(dialog().findChild<Choice*>("export.preset")->currentIndex(), 4);
    QSignalSpy copied(&dialog(), &ExportDialog::copied);
    dialog().findChild<QPushButton*>(QStringLiteral("export.copy"))->click();
    QTRY_COMPARE_WITH_TIMEOUT(copied.size(), 1, 60000);
    QCOMPARE(QGuiApplication::clipboard()->image().convertToFormat(QImage::Format_RGB32),
        drawSheet(world(), dialog().options()).value());
    const ExportOptions left = dialog().options();
    dialog().reject();
    QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
    openDialog();
    QVERIFY(dialog().options().parts == left.parts);
    QVERIFY(!tick("export.legend").isChecked());
    // Coarse pictures are calm unless told otherwise, fine ones cannot be.
    QVERIFY(!tick("export.calm").isChecked());
    dialog().reject();
    QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
    for (int n = 0; n < 8 && map().geometry().level() < 3; ++n)
      QTest::keyClick(&map(), Qt::Key_Minus);
    openDialog();
    QVERIFY(tick("export.calm").isChecked());
    QVERIFY(dialog().options().map.calm > 1);
    QVERIFY(dialog().options().command.contains(QStringLiteral("--calm")));
    dialog().reject();
  }
};

ACRE_SUITE(SheetTest)
#include "sheet_test.moc"
