stands in for import.lua
