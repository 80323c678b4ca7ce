#!/bin/sh
# Run under the subsystem for the other family, where drives are folders.
sheets=/mnt/d/Herbarium/Sheets
for year in 2019 2021; do
  ls "$sheets/$year"
done
