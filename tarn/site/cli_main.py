"""`python -m tarn.site.cli_main`: the command line by module name."""

from tarn.site.cli import main

main()
