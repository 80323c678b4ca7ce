@echo off
rem Starts the map desk with the maps of the herbarium
"C:\Program Files\Map Desk\mapdesk.exe" --maps=D:\Herbarium\Maps --log "D:\Herbarium\Maps\log\today.txt"
