return {
  root = "H:\\Grün & Herbarium",
  sheet = "H:\\Grün & Herbarium\\Sheets\\2019\\0412 Salix.tif",
  letters = "H:\\Grün & Herbarium\\Grün\\Straße.tif",
  forward = "H:/Grün & Herbarium/Labels",
  map = "M:\\Maps, new\\rivers.map",
  labels = "\\\\fernhall\\press\\labels\\narrow.lbl",
  verbatim = "\\\\?\\H:\\Grün & Herbarium\\deep",
  other = "D:\\HerbariumOld\\keep",
  count = "12",
  title = "Pressed sheets: new & old <draft>",
}
