"""Files of what stands behind the supply: dumps of ROMs, tables of memory."""
