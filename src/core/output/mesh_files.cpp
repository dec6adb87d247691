#include "output/mesh_files.h"

#include <fmt/format.h>
#include <zlib.h>

#include <algorithm>
#include <bit>
#include <cmath>
#include <cstring>
#include <map>
#include <nlohmann/json.hpp>
#include <set>

#include "base/atomic_file.h"
#include "output/shading.h"
#include "recipe/json.h"
#include "world/fingerprint.h"
#include "world/world.h"

namespace acre {
namespace {

std::string nameOfMaterial(const World& world, MaterialIndex m) {
  return m == BlockClasses::bedOf(world) ? "bed" : world.catalogue().materialId(m);
}

Colour colourOf(const World& world, MaterialIndex m) {
  const Material* material = world.catalogue().material(m);
  if (material) return material->colour;
  const uint32_t ink = m == BlockClasses::bedOf(world) ? kPlainGround : 0xFFE9E3D3;
  return {
      static_cast<uint8_t>(ink >> 16), static_cast<uint8_t>(ink >> 8), static_cast<uint8_t>(ink)};
}

/// sRGB to linear light, as glTF wants colours.
double linear(uint8_t v) {
  const double s = v / 255.0;
  return s <= 0.04045 ? s / 12.92 : std::pow((s + 0.055) / 1.055, 2.4);
}

std::string objText(const World& world, const Solid& solid, const std::string& library) {
  std::string out = fmt::format("# {} seed {}\nmtllib {}\n", oneLine(world.recipe().name),
      oneLine(world.recipe().seed), library);
  for (const auto& p : solid.points)
    fmt::format_to(std::back_inserter(out), "v {} {} {}\n",
        solid.origin[0] + static_cast<double>(p[0]), solid.origin[1] + static_cast<double>(p[1]),
        solid.origin[2] + static_cast<double>(p[2]));
  for (const auto& n : solid.normals)
    fmt::format_to(std::back_inserter(out), "vn {} {} {}\n", n[0], n[1], n[2]);
  for (const Solid::Part& part : solid.parts) {
    fmt::format_to(std::back_inserter(out), "usemtl {}\n", nameOfMaterial(world, part.material));
    for (size_t i = 0; i + 2 < part.corners.size(); i += 3)
      fmt::format_to(std::back_inserter(out), "f {0}//{0} {1}//{1} {2}//{2}\n", part.corners[i] + 1,
          part.corners[i + 1] + 1, part.corners[i + 2] + 1);
  }
  return out;
}

/// How dense what is seen through is.
constexpr double kClear = 0.63;

std::string mtlText(const World& world, const Solid& solid) {
  std::string out;
  for (const Solid::Part& part : solid.parts) {
    const Colour c = colourOf(world, part.material);
    fmt::format_to(std::back_inserter(out), "newmtl {}\nKd {:.4f} {:.4f} {:.4f}\n",
        nameOfMaterial(world, part.material), c.red / 255.0, c.green / 255.0, c.blue / 255.0);
    if (part.clear) fmt::format_to(std::back_inserter(out), "d {}\n", kClear);
  }
  return out;
}

std::string plyText(const World& world, const Solid& solid) {
  size_t faces = 0;
  for (const Solid::Part& part : solid.parts) faces += part.corners.size() / 3;
  std::string out = fmt::format(
      "ply\nformat ascii 1.0\ncomment {} seed {}\nelement vertex {}\nproperty double x\nproperty "
      "double y\nproperty double z\nelement face {}\nproperty list uchar uint "
      "vertex_indices\nproperty uchar red\nproperty uchar green\nproperty uchar blue\nend_header\n",
      oneLine(world.recipe().name), oneLine(world.recipe().seed), solid.points.size(), faces);
  for (const auto& p : solid.points)
    fmt::format_to(std::back_inserter(out), "{} {} {}\n",
        solid.origin[0] + static_cast<double>(p[0]), solid.origin[1] + static_cast<double>(p[1]),
        solid.origin[2] + static_cast<double>(p[2]));
  for (const Solid::Part& part : solid.parts) {
    const Colour c = colourOf(world, part.material);
    for (size_t i = 0; i + 2 < part.corners.size(); i += 3)
      fmt::format_to(std::back_inserter(out), "3 {} {} {} {} {} {}\n", part.corners[i],
          part.corners[i + 1], part.corners[i + 2], c.red, c.green, c.blue);
  }
  return out;
}

template <class T>
void append(std::string& out, const T& value) {
  static_assert(std::endian::native == std::endian::little);
  char bytes[sizeof(T)];
  std::memcpy(bytes, &value, sizeof(T));
  out.append(bytes, sizeof(T));
}

/// glTF 2.0, Khronos Group 2017 (ISO/IEC 12113): one node, one mesh, a primitive a material.
std::string glbBytes(const World& world, const Solid& solid) {
  using Json = nlohmann::ordered_json;
  std::string bin;
  Json views = Json::array(), accessors = Json::array(), primitives = Json::array(),
       materials = Json::array();
  const auto view = [&](size_t from, int target) {
    views.push_back({{"buffer", 0}, {"byteOffset", from}, {"byteLength", bin.size() - from},
        {"target", target}});
    return views.size() - 1;
  };
  constexpr int kFloat = 5126, kUnsigned = 5125, kArray = 34962, kElements = 34963;
  size_t from = 0;
  std::array<float, 3> low{}, high{};
  if (!solid.points.empty()) low = high = solid.points.front();
  for (const auto& p : solid.points)
    for (size_t a = 0; a < 3; ++a) {
      low[a] = std::min(low[a], p[a]);
      high[a] = std::max(high[a], p[a]);
      append(bin, p[a]);
    }
  accessors.push_back({{"bufferView", view(from, kArray)}, {"componentType", kFloat},
      {"count", solid.points.size()}, {"type", "VEC3"}, {"min", low}, {"max", high}});
  from = bin.size();
  for (const auto& n : solid.normals)
    for (const float v : n) append(bin, v);
  accessors.push_back({{"bufferView", view(from, kArray)}, {"componentType", kFloat},
      {"count", solid.normals.size()}, {"type", "VEC3"}});
  for (const Solid::Part& part : solid.parts) {
    from = bin.size();
    for (const uint32_t corner : part.corners) append(bin, corner);
    accessors.push_back({{"bufferView", view(from, kElements)}, {"componentType", kUnsigned},
        {"count", part.corners.size()}, {"type", "SCALAR"}});
    const Colour c = colourOf(world, part.material);
    materials.push_back({{"name", nameOfMaterial(world, part.material)},
        {"pbrMetallicRoughness",
            {{"baseColorFactor",
                 {linear(c.red), linear(c.green), linear(c.blue), part.clear ? kClear : 1.0}},
                {"metallicFactor", 0.0}, {"roughnessFactor", 1.0}}}});
    if (part.clear) materials.back().update({{"alphaMode", "BLEND"}, {"doubleSided", true}});
    primitives.push_back({{"attributes", {{"POSITION", 0}, {"NORMAL", 1}}},
        {"indices", accessors.size() - 1}, {"material", materials.size() - 1}});
  }
  Json out = {{"asset", {{"version", "2.0"}, {"generator", "Kindred Acre"},
                            {"extras", {{"seed", world.recipe().seed},
                                           {"recipe", recipeId(world.recipe()).hex()}}}}},
      {"scene", 0}, {"scenes", Json::array({{{"nodes", {0}}}})},
      {"nodes", Json::array({{{"mesh", 0}, {"translation", solid.origin}}})},
      {"meshes", Json::array({{{"primitives", primitives}}})}, {"materials", materials},
      {"buffers", Json::array({{{"byteLength", bin.size()}}})}, {"bufferViews", views},
      {"accessors", accessors}};
  std::string json = out.dump();
  while (json.size() % 4) json += ' ';
  while (bin.size() % 4) bin += '\0';
  std::string file = "glTF";
  append(file, uint32_t{2});
  append(file, static_cast<uint32_t>(12 + 8 + json.size() + 8 + bin.size()));
  append(file, static_cast<uint32_t>(json.size()));
  file += "JSON" + json;
  append(file, static_cast<uint32_t>(bin.size()));
  file += std::string("BIN\0", 4) + bin;
  return file;
}

/// gzip (RFC 1952) by zlib.
Result<std::string> zipped(std::string_view bytes) {
  z_stream z{};
  if (deflateInit2(&z, 6, Z_DEFLATED, 15 + 16, 8, Z_DEFAULT_STRATEGY) != Z_OK)
    return Error{Error::Code::ResourceExhausted, "out of memory", "gzip", ""};
  std::string out(deflateBound(&z, bytes.size()), '\0');
  z.next_in = reinterpret_cast<Bytef*>(const_cast<char*>(bytes.data()));
  z.avail_in = static_cast<uInt>(bytes.size());
  z.next_out = reinterpret_cast<Bytef*>(out.data());
  z.avail_out = static_cast<uInt>(out.size());
  const int ended = deflate(&z, Z_FINISH);
  out.resize(z.total_out);
  deflateEnd(&z);
  if (ended != Z_STREAM_END) return Error{Error::Code::Io, "gzip failed", "", ""};
  return out;
}

/// A part for each material that occurs.
Solid::Part& partOf(Solid& solid, std::map<MaterialIndex, size_t>& known, MaterialIndex material) {
  const auto [at, fresh] = known.try_emplace(material, solid.parts.size());
  if (fresh) solid.parts.push_back({material, {}, false});
  return solid.parts[at->second];
}

}  // namespace

namespace {

/// Where a mesh lies from the origin of its chunk's solid.
std::array<float, 3> baseOf(const BlockMesh& mesh, const Solid& solid) {
  return {static_cast<float>(static_cast<double>(mesh.x) - solid.origin[0]),
      static_cast<float>(static_cast<double>(mesh.y) - solid.origin[1]),
      static_cast<float>(static_cast<double>(mesh.z) - solid.origin[2])};
}

Solid emptySolid(const World& world, ChunkPos pos) {
  Solid solid;
  const Rect rect = intersection(world.groundLayout().rectOf(pos), world.bounds());
  solid.origin = {static_cast<double>(rect.x),
      static_cast<double>(world.groundLayout().levelsOf(pos).first), static_cast<double>(rect.z)};
  return solid;
}

void addQuads(const BlockMesh& mesh, std::map<MaterialIndex, size_t>& known, Solid& solid) {
  const std::array<float, 3> base = baseOf(mesh, solid);
  const auto step = static_cast<float>(mesh.step);
  for (const Quad& quad : mesh.quads) {
    const int axis = static_cast<int>(quad.side) / 2;
    const bool up = static_cast<int>(quad.side) % 2 != 0;
    const int u = axis == 0 ? 2 : 0, v = axis == 1 ? 2 : 1;
    const uint8_t at[3] = {quad.x, quad.y, quad.z};
    const auto first = static_cast<uint32_t>(solid.points.size());
    for (const auto& [i, j] :
        {std::pair<int, int>(0, 0), {quad.width, 0}, {quad.width, quad.height}, {0, quad.height}}) {
      std::array<float, 3> p{};
      for (int a = 0; a < 3; ++a)
        p[static_cast<size_t>(a)] =
            base[static_cast<size_t>(a)] +
            step * static_cast<float>(at[a] + (a == u ? i : 0) + (a == v ? j : 0));
      solid.points.push_back(p);
      std::array<float, 3> n{};
      n[static_cast<size_t>(axis)] = up ? 1.0f : -1.0f;
      solid.normals.push_back(n);
    }
    // u x v points down axes x and y, and up axis z.
    const bool turned = (axis == 2) == up;
    auto& corners = partOf(solid, known, quad.material).corners;
    for (const uint32_t k : turned ? std::array<uint32_t, 6>{0, 1, 2, 0, 2, 3}
                                   : std::array<uint32_t, 6>{0, 2, 1, 0, 3, 2})
      corners.push_back(first + k);
  }
}

/// Bricks that meet within the chunk share no points, but their points are the same.
void addSurface(
    const BlockMesh& mesh, uint8_t walls, std::map<MaterialIndex, size_t>& known, Solid& solid) {
  const std::array<float, 3> base = baseOf(mesh, solid);
  const auto step = static_cast<float>(mesh.step);
  const auto first = static_cast<uint32_t>(solid.points.size());
  for (const SurfacePoint& p : mesh.points) {
    solid.points.push_back({base[0] + step * p.x, base[1] + step * p.y, base[2] + step * p.z});
    solid.normals.push_back({p.nx, p.ny, p.nz});
  }
  const auto add = [&](const SurfaceTriangle& t) {
    auto& corners = partOf(solid, known, t.material).corners;
    for (const uint32_t c : {t.a, t.b, t.c}) corners.push_back(first + c);
  };
  for (const SurfaceTriangle& t : mesh.triangles) add(t);
  for (size_t side = 0; side < kSides; ++side)
    if (walls >> side & 1)
      for (const SurfaceTriangle& t : mesh.walls[side]) add(t);
}

}  // namespace

Solid facesOf(const std::vector<std::shared_ptr<const BlockMesh>>& meshes,
    const std::array<double, 3>& origin) {
  Solid solid;
  solid.origin = origin;
  std::map<MaterialIndex, size_t> known;
  for (const auto& mesh : meshes) addQuads(*mesh, known, solid);
  return solid;
}

Result<Solid> facesOfChunk(const World& world, ChunkPos pos, bool clearLeaves) {
  FaceOptions options;
  options.clearLeaves = clearLeaves;
  const auto meshes = meshChunk(world, pos, options);
  if (!meshes) return meshes.error();
  Solid out = facesOf(*meshes, emptySolid(world, pos).origin);
  if (clearLeaves) {
    const std::vector<MaterialIndex> leaves = leavesOf(world);
    for (Solid::Part& part : out.parts)
      part.clear = std::binary_search(leaves.begin(), leaves.end(), part.material);
  }
  return out;
}

Result<Solid> surfaceOfChunk(const World& world, ChunkPos pos) {
  const auto meshes = meshChunk(world, pos, {true, 0, true});
  if (!meshes) return meshes.error();
  Solid solid = emptySolid(world, pos);
  std::map<MaterialIndex, size_t> known;
  const auto beside = [&](const BlockMesh& a, int axis, int way) {
    const int64_t at[3] = {a.x, a.y, a.z}, size[3] = {a.width, a.tall, a.depth};
    for (const auto& b : *meshes) {
      const int64_t other[3] = {b->x, b->y, b->z}, own[3] = {b->width, b->tall, b->depth};
      bool is = true;
      for (int d = 0; d < 3; ++d)
        is = is && other[d] == (d != axis    ? at[d]
                                   : way > 0 ? at[d] + size[d] * a.step
                                             : at[d] - own[d] * a.step);
      if (is) return true;
    }
    return false;
  };
  for (const auto& mesh : *meshes) {
    unsigned walls = 0;
    for (int side = 0; side < kSides; ++side)
      if (!beside(*mesh, side / 2, side % 2 ? 1 : -1)) walls |= 1u << side;
    addQuads(*mesh, known, solid);
    addSurface(*mesh, static_cast<uint8_t>(walls), known, solid);
  }
  return solid;
}

Result<Solid> netOfChunk(const World& world, ChunkPos pos, double exaggeration) {
  const Rect rect = intersection(world.layout().rectOf(pos), world.bounds());
  if (rect.empty())
    return Error{Error::Code::InvalidInput, "outside the world's bounds", "chunk",
        "chunks that hold a cell of the world"};
  const auto wide = static_cast<int32_t>(rect.width + 1),
             deep = static_cast<int32_t>(rect.length + 1);
  std::vector<float> heights(static_cast<size_t>(wide) * static_cast<size_t>(deep));
  std::vector<MaterialIndex> materials(heights.size());
  if (Status made = world.sample({rect.x, rect.z, 1, wide, deep}, heights.data(), materials.data());
      !made)
    return made.error();
  Solid solid;
  solid.origin = {static_cast<double>(rect.x), 0, static_cast<double>(rect.z)};
  const auto at = [&](int32_t i, int32_t k) {
    return heights[static_cast<size_t>(std::clamp(k, 0, deep - 1)) * static_cast<size_t>(wide) +
                   static_cast<size_t>(std::clamp(i, 0, wide - 1))];
  };
  const auto tall = static_cast<float>(exaggeration);
  for (int32_t k = 0; k < deep; ++k)
    for (int32_t i = 0; i < wide; ++i) {
      solid.points.push_back({static_cast<float>(i), at(i, k) * tall, static_cast<float>(k)});
      const float dx = (at(i + 1, k) - at(i - 1, k)) * tall * 0.5f,
                  dz = (at(i, k + 1) - at(i, k - 1)) * tall * 0.5f;
      const float length = std::sqrt(dx * dx + 1 + dz * dz);
      solid.normals.push_back({-dx / length, 1 / length, -dz / length});
    }
  std::map<MaterialIndex, size_t> known;
  for (int32_t k = 0; k + 1 < deep; ++k)
    for (int32_t i = 0; i + 1 < wide; ++i) {
      const auto a = static_cast<uint32_t>(k * wide + i), south = a + static_cast<uint32_t>(wide);
      auto& corners = partOf(solid, known, materials[a]).corners;
      corners.insert(corners.end(), {a, south, a + 1, a + 1, south, south + 1});
    }
  return solid;
}

Status writeSolid(const World& world, const Solid& solid, const std::filesystem::path& file) {
  const std::string ending = file.extension().string();
  if (ending == ".glb") {
    if (solid.points.empty())
      return Error{Error::Code::InvalidInput,
          "nothing of this chunk can be seen: there are no faces", file.string(),
          "a chunk where ground meets open space"};
    return writeFile(file, glbBytes(world, solid));
  }
  if (ending == ".ply") return writeFile(file, plyText(world, solid));
  std::filesystem::path library = file;
  library.replace_extension(".mtl");
  auto colours = AtomicFile::open(library);
  if (!colours) return colours.error();
  auto shape = AtomicFile::open(file);
  if (!shape) return shape.error();
  if (Status written = colours->write(mtlText(world, solid)); !written) return written;
  if (Status written = shape->write(objText(world, solid, library.filename().string())); !written)
    return written;
  return AtomicFile::commit({&*colours, &*shape});
}

/// The values of the groups one after the other, x fastest, then z.
static Status writeTiles(
    const World& world, const Chunk& chunk, const std::filesystem::path& file) {
  std::string header = "NRRD0004\n# " + oneLine(world.recipe().name) + " seed " +
                       oneLine(world.recipe().seed) + "\n";
  header += fmt::format(
      "type: uint16\ndimension: 3\nsizes: {} {} {}\nkinds: domain domain list\nencoding: "
      "gzip\nendian: little\nchunk:={}\nhash:={}\nfirst:={},{}\n",
      chunk.width, chunk.length, chunk.tiles.size(), chunkText(world.layout(), chunk.pos),
      chunkHash(world, chunk).hex(), chunk.rect.x, chunk.rect.z);
  std::string bytes;
  for (size_t g = 0; g < chunk.tiles.size(); ++g) {
    header +=
        fmt::format("group {}:={}\n", g, world.tiles().stage()->group(static_cast<int>(g)).id);
    for (const uint16_t value : chunk.tiles[g].unpacked()) append(bytes, value);
  }
  const auto body = zipped(bytes);
  if (!body) return body.error();
  return writeFile(file, header + "\n" + *body);
}

Status writeNrrd(const World& world, const Chunk& chunk, const std::filesystem::path& file) {
  if (chunk.tall == 0 && !chunk.tiles.empty()) return writeTiles(world, chunk, file);
  if (chunk.tall == 0)
    return Error{Error::Code::InvalidInput, "this world's chunks have no volume", file.string(),
        ".json, .csv, .obj, .ply or .glb"};
  return writeNrrd(world,
      {{chunk.rect.x, chunk.y, chunk.rect.z}, {chunk.width, chunk.tall, chunk.length},
          chunk.materials.unpacked(),
          fmt::format("chunk:={}\nhash:={}", chunkText(world.layout(), chunk.pos),
              chunkHash(world, chunk).hex())},
      file);
}

Status writeNrrd(const World& world, const Volume& volume, const std::filesystem::path& file) {
  std::string header = "NRRD0004\n# " + oneLine(world.recipe().name) + " seed " +
                       oneLine(world.recipe().seed) + "\n";
  header += fmt::format(
      "type: uint16\ndimension: 3\nsizes: {} {} {}\nspace dimension: 3\nspace directions: (1,0,0) "
      "(0,0,1) (0,1,0)\nspace origin: ({},{},{})\nencoding: gzip\nendian: little\n{}\n",
      volume.size[0], volume.size[2], volume.size[1], volume.origin[0], volume.origin[1],
      volume.origin[2], volume.said);
  const std::set<MaterialIndex> palette(volume.blocks.begin(), volume.blocks.end());
  for (const MaterialIndex m : palette)
    header += fmt::format("value {}:={}\n", m, world.catalogue().materialId(m));
  std::string bytes;
  bytes.reserve(volume.blocks.size() * 2);
  for (const MaterialIndex m : volume.blocks) append(bytes, m);
  const auto body = zipped(bytes);
  if (!body) return body.error();
  return writeFile(file, header + "\n" + *body);
}

}  // namespace acre
