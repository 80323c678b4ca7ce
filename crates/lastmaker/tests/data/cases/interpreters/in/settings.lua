return {
  root = "D:\\Herbarium",
  sheet = "D:\\Herbarium\\Sheets\\2019\\0412 Salix.tif",
  letters = "D:\\Herbarium\\Grün\\Straße.tif",
  forward = "D:/Herbarium/Labels",
  map = "D:\\Maps\\rivers.map",
  labels = "\\\\mossbank\\press\\labels\\narrow.lbl",
  verbatim = "\\\\?\\D:\\Herbarium\\deep",
  other = "D:\\HerbariumOld\\keep",
  count = "12",
  title = "Pressed sheets: new & old <draft>",
}
