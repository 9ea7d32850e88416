"""The ASGI application."""

import os
import warnings
from typing import cast

from django.core.asgi import get_asgi_application

from tarn.site.bounds import App, Bounded

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "tarn.site.settings")
# WhiteNoise hands files over as ordinary iterators; Django reads them in a thread, which is what is wanted.
warnings.filterwarnings("ignore", message="StreamingHttpResponse must consume synchronous iterators")

application = Bounded(cast(App, get_asgi_application()))
