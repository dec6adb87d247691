/// What the lists of drawers are made of: how far to search, a headline, a table, buttons below it.
#pragma once

#include <QHBoxLayout>
#include <QHeaderView>
#include <QLabel>
#include <QPushButton>
#include <QTableView>
#include <QVBoxLayout>
#include <initializer_list>

#include "app/edit/choice.h"
#include "app/look/look.h"

namespace app::parts {

/// How far a list is searched: one of some numbers of cells.
inline Choice* within(const char* name, std::initializer_list<int> distances, int usual) {
  auto* choice = new Choice;
  choice->setObjectName(QLatin1String(name));
  choice->setAccessibleName(QObject::tr("How far to search"));
  for (const int cells : distances)
    choice->addItem(QObject::tr("%1 cells").arg(look::wholeNumber(cells)), cells);
  choice->setCurrentIndex(usual);
  return choice;
}

inline QPushButton* pushButton(
    QBoxLayout* row, const QString& text, const char* name, const QString& tip) {
  auto* button = new QPushButton(text);
  button->setObjectName(QLatin1String(name));
  button->setToolTip(tip);
  row->addWidget(button);
  return button;
}

/// Searches again around the viewpoint.
inline QPushButton* fromHere(QBoxLayout* row, const char* name) {
  return pushButton(
      row, QObject::tr("From here"), name, QObject::tr("Search again around the viewpoint"));
}

/// A row of controls at the end of a column.
inline QHBoxLayout* row(QVBoxLayout* column) {
  auto* made = new QHBoxLayout;
  made->setSpacing(6);
  column->addLayout(made);
  return made;
}

/// A column of a page, without margins.
inline QVBoxLayout* pageColumn(QWidget* page) {
  auto* column = new QVBoxLayout(page);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(8);
  return column;
}

inline QLabel* headline(QVBoxLayout* column, const char* name) {
  auto* label = new QLabel;
  label->setObjectName(QLatin1String(name));
  label->setWordWrap(true);
  column->addWidget(label);
  return label;
}

/// Rows are chosen whole, one at a time.
inline void dress(QTableView& table, const char* name, const QString& called) {
  table.setObjectName(QLatin1String(name));
  table.setAccessibleName(called);
  table.setSelectionBehavior(QAbstractItemView::SelectRows);
  table.setSelectionMode(QAbstractItemView::SingleSelection);
  table.setShowGrid(false);
  table.verticalHeader()->hide();
  table.verticalHeader()->setDefaultSectionSize(24);
  table.horizontalHeader()->setHighlightSections(false);
}

}  // namespace app::parts
