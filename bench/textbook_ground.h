/// The ground of swallet-edge as it is commonly written.
#pragma once

#include "textbook_land.h"

namespace bench {

inline constexpr int kSide = 32;

/// The ground of swallet-edge, cell by cell: heights and climate per column, overhangs, layers and
/// beds per block. Ores are left out: the textbook has none.
class TextbookGround {
 public:
  explicit TextbookGround(const Recipe& recipe)
      : land_(recipe),
        crags_(recipe.fields[0], 5),
        folds_(recipe.fields[1], 6),
        soil_(recipe.fields[2], 7) {
    land_.listSlices();
  }

  void chunk(int x0, int y0, int z0, MaterialIndex* out) const {
    for (int k = 0; k < kSide; ++k)
      for (int i = 0; i < kSide; ++i) {
        const int x = x0 + i, z = z0 + k;
        const float h = land_.height(x, z);
        const float t = land_.temperature(x, z, h), m = land_.moisture(x, z);
        const int biome = land_.biome(t, m, h);
        const float mask = std::min(1.0f, std::max(0.0f, crags_.at(x, z) * 3.3f + 0.5f));
        const float lift = 44 + 16 * folds_.at(x, z);
        const int soil = 1 + static_cast<int>(std::max(0.0f, 3 + 2.5f * soil_.at(x, z)));
        int depth = 0;
        for (int y = y0 + kSide + 6; y >= y0; --y) {
          const float fx = static_cast<float>(x) / 34, fy = static_cast<float>(y) / 34,
                      fz = static_cast<float>(z) / 34;
          const float n =
              noise_.gradient3(fx, fy, fz) + 0.5f * noise_.gradient3(fx * 2, fy * 2, fz * 2);
          const float d = h - static_cast<float>(y + 1);
          const float w = 1 - std::abs(d) / 24;
          const bool solid = d + (w > 0 ? 26 * mask * w * n : 0) >= 0;
          depth = solid ? depth + 1 : 0;
          if (y >= y0 + kSide) continue;
          MaterialIndex m2 = kOpen;
          if (solid) {
            const float below = lift - (static_cast<float>(y) + 0.5f);
            m2 = static_cast<MaterialIndex>(below < 14    ? 9
                                            : below < 60  ? 8
                                            : below < 69  ? 10
                                            : below < 107 ? 8
                                                          : 11);
            if (depth == 1)
              m2 = static_cast<MaterialIndex>(2 + biome % 4);
            else if (depth <= soil)
              m2 = 6;
          } else if (y < 0) {
            m2 = 1;
          }
          out[((y - y0) * kSide + k) * kSide + i] = m2;
        }
      }
  }

 private:
  TextbookLand land_;
  TextbookField crags_, folds_, soil_;
  textbook::Noise noise_{9};
};

}  // namespace bench
