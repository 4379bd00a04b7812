"""Django's command line for the server, in a checkout."""

from underhood_server.__main__ import main

if __name__ == "__main__":
    main()
