# Writes OUT: a C++ table of the recipes listed in DEMOS (name without ending, text).
set(text "#include \"world/demos.h\"\n\nnamespace acre {\nconst std::vector<Demo>& demos() {\n  static const std::vector<Demo> all = {\n")
foreach(demo IN LISTS DEMOS)
  get_filename_component(name ${demo} NAME_WE)
  file(READ ${demo} body)
  string(APPEND text "      {\"${name}\", R\"acre(${body})acre\"},\n")
endforeach()
string(APPEND text "  };\n  return all;\n}\n}  // namespace acre\n")
file(WRITE ${OUT} "${text}")
