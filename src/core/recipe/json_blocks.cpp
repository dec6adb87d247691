#include "recipe/json_words.h"

namespace acre {

Json overhangJson(const Overhang& overhang) {
  Json out = Json::object();
  if (!overhang.on) out["on"] = false;
  out["reach"] = numberJson(overhang.reach);
  out["amount"] = numberJson(overhang.amount);
  out["noise"] = namedNoiseJson(overhang.noise);
  if (overhang.mask) out["mask"] = maskJson(*overhang.mask);
  return out;
}

Overhang readOverhang(const JsonReader& in) {
  in.expectObject({"on", "reach", "amount", "noise", "mask"});
  Overhang overhang;
  overhang.on = true;
  readIf(in, "on", overhang.on);
  overhang.reach = in.member("reach").number();
  overhang.amount = in.member("amount").number();
  overhang.noise = readNamedNoise(in.member("noise"));
  if (in.has("mask")) overhang.mask = readMask(in.member("mask"));
  return overhang;
}

Json layersJson(const std::vector<DepthLayer>& layers) {
  Json out = Json::array();
  for (const DepthLayer& layer : layers) {
    Json one = {{"id", layer.id},
                {"material", materialJson(layer.material)},
                {"thickness", numberJson(layer.thickness)}};
    if (!layer.field.empty()) {
      one["field"] = layer.field;
      one["vary"] = numberJson(layer.vary);
    }
    out.push_back(std::move(one));
  }
  return out;
}

std::vector<DepthLayer> readLayers(const JsonReader& in) {
  std::vector<DepthLayer> layers;
  for (const JsonReader& member : in.members()) {
    member.expectObject({"id", "material", "thickness", "field", "vary"});
    DepthLayer& layer = layers.emplace_back();
    layer.id = member.member("id").text();
    layer.material = readMaterialId(member.member("material"));
    layer.thickness = member.member("thickness").number();
    readIf(member, "field", layer.field);
    readIf(member, "vary", layer.vary);
  }
  return layers;
}

Json rockJson(const Rock& rock) {
  Json beds = Json::array();
  for (const Bed& bed : rock.beds) {
    Json one = {{"id", bed.id}, {"material", materialJson(bed.material)}};
    if (&bed != &rock.beds.back()) one["thickness"] = numberJson(bed.thickness);
    beds.push_back(std::move(one));
  }
  Json out = {{"top", numberJson(rock.top)}};
  if (!rock.bend.empty()) {
    out["bend"] = rock.bend;
    out["lift"] = numberJson(rock.lift);
  }
  out["beds"] = std::move(beds);
  return out;
}

Rock readRock(const JsonReader& in) {
  in.expectObject({"top", "bend", "lift", "beds"});
  Rock rock;
  rock.top = in.member("top").number();
  readIf(in, "bend", rock.bend);
  readIf(in, "lift", rock.lift);
  const auto beds = in.member("beds").members();
  for (const JsonReader& member : beds) {
    const bool last = rock.beds.size() + 1 == beds.size();
    member.expectObject(last ? std::vector<std::string_view>{"id", "material"}
                             : std::vector<std::string_view>{"id", "material", "thickness"});
    Bed& bed = rock.beds.emplace_back();
    bed.id = member.member("id").text();
    bed.material = readMaterialId(member.member("material"));
    if (!last) bed.thickness = member.member("thickness").number();
  }
  return rock;
}

Json oreJson(const Ore& ore) {
  Json out = {{"id", ore.id},
              {"on", ore.on},
              {"material", ore.material},
              {"share", numberJson(ore.share)},
              {"shape", word(kOreShapes, ore.shape)},
              {"radius", numberJson(ore.radius)}};
  if (ore.shape == Ore::Shape::Vein) out["length"] = numberJson(ore.length);
  if (!ore.hosts.empty()) out["hosts"] = ore.hosts;
  if (!ore.curve.empty()) out["curve"] = curveJson(ore.curve);
  return out;
}

Ore readOre(const JsonReader& in) {
  in.expectObject({"id", "on", "material", "share", "shape", "radius", "length", "hosts", "curve"});
  Ore ore;
  ore.id = in.member("id").text();
  readIf(in, "on", ore.on);
  ore.material = in.member("material").text();
  ore.share = in.member("share").number();
  ore.shape = static_cast<Ore::Shape>(in.member("shape").choice(kOreShapes));
  ore.radius = in.member("radius").number();
  readIf(in, "length", ore.length);
  if (in.has("hosts")) ore.hosts = readTexts(in.member("hosts"));
  if (in.has("curve")) ore.curve = readCurve(in.member("curve"));
  return ore;
}

}  // namespace acre
