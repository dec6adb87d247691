#include "recipe/edits.h"

#include <algorithm>

namespace acre {

uint16_t EditSet::indexOf(const std::string& material) {
  const auto found = std::find(materials_.begin(), materials_.end(), material);
  if (found != materials_.end()) return static_cast<uint16_t>(found - materials_.begin());
  materials_.push_back(material);
  return static_cast<uint16_t>(materials_.size() - 1);
}

std::shared_ptr<const EditSet> EditSet::with(const std::vector<Edit>& changes) const {
  auto out = std::make_shared<EditSet>(*this);
  // By brick first, so that each is copied once however many of its cells change.
  std::map<Corner, std::map<uint16_t, const Edit*>> byBrick;
  for (const Edit& edit : changes) {
    const Corner corner{floorDiv(edit.y, kSide), floorDiv(edit.z, kSide), floorDiv(edit.x, kSide)};
    const auto place =
        static_cast<uint16_t>((floorMod(edit.y, kSide) * kSide + floorMod(edit.z, kSide)) * kSide +
                              floorMod(edit.x, kSide));
    byBrick[corner][place] = &edit;
  }
  for (const auto& [corner, places] : byBrick) {
    const auto known = out->bricks_.find(corner);
    std::map<uint16_t, uint16_t> entries;
    if (known != out->bricks_.end()) {
      for (const Entry& e : *known->second) entries[e.place] = e.material;
      out->count_ -= known->second->size();
    }
    for (const auto& [place, edit] : places) {
      if (edit->material.empty())
        entries.erase(place);
      else
        entries[place] = out->indexOf(edit->material);
    }
    if (entries.empty()) {
      out->bricks_.erase(corner);
      continue;
    }
    auto brick = std::make_shared<Brick>();
    brick->reserve(entries.size());
    for (const auto& [place, material] : entries) brick->push_back({place, material});
    out->count_ += brick->size();
    out->bricks_[corner] = std::move(brick);
  }
  return out;
}

std::vector<Edit> EditSet::all() const {
  std::vector<Edit> out;
  out.reserve(count_);
  for (const auto& [corner, brick] : bricks_)
    for (const Entry& e : *brick)
      out.push_back(
          {corner[2] * kSide + e.place % kSide, corner[0] * kSide + e.place / (kSide * kSide),
              corner[1] * kSide + e.place / kSide % kSide, materials_[e.material]});
  return out;
}

std::string EditSet::at(int64_t x, int64_t y, int64_t z) const {
  std::string out;
  eachIn({x, y, z, 1, 1, 1, 1},
      [&](int64_t, int64_t, int64_t, uint16_t material) { out = materials_[material]; });
  return out;
}

bool EditSet::operator==(const EditSet& other) const {
  return seed_ == other.seed_ && count_ == other.count_ && all() == other.all();
}

std::vector<Edit> EditSet::difference(const EditSet* a, const EditSet* b) {
  static const EditSet none{std::string()};
  const EditSet &from = a ? *a : none, &to = b ? *b : none;
  std::vector<Edit> out;
  const auto add = [&](const Corner& corner, uint16_t place, const std::string& material) {
    out.push_back({corner[2] * kSide + place % kSide, corner[0] * kSide + place / (kSide * kSide),
        corner[1] * kSide + place / kSide % kSide, material});
  };
  const auto materialsOf = [](const EditSet& set, const Corner& corner) {
    std::map<uint16_t, std::string> cells;
    if (const auto found = set.bricks_.find(corner); found != set.bricks_.end())
      for (const Entry& e : *found->second) cells[e.place] = set.materials_[e.material];
    return cells;
  };
  std::map<Corner, bool> corners;
  for (const auto& [corner, brick] : from.bricks_) {
    const auto other = to.bricks_.find(corner);
    if (other == to.bricks_.end() || other->second != brick) corners[corner];
  }
  for (const auto& [corner, brick] : to.bricks_)
    if (!from.bricks_.contains(corner)) corners[corner];
  for (const auto& [corner, unused] : corners) {
    const auto before = materialsOf(from, corner), after = materialsOf(to, corner);
    for (const auto& [place, material] : after) {
      const auto was = before.find(place);
      if (was == before.end() || was->second != material) add(corner, place, material);
    }
    for (const auto& [place, material] : before)
      if (!after.contains(place)) add(corner, place, {});
  }
  return out;
}

bool sameEdits(const Edits& a, const Edits& b) {
  if (a == b) return true;
  const bool noneA = !a || a->empty(), noneB = !b || b->empty();
  if (noneA || noneB) return noneA == noneB;
  return *a == *b;
}

}  // namespace acre
