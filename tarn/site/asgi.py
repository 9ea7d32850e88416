"""The ASGI application."""

import os
import warnings

from django.core.asgi import get_asgi_application

from tarn.site.bounds import Bounded

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "tarn.site.settings")
# WhiteNoise hands files over as ordinary iterators; Django reads them in a thread, which is what is wanted.
warnings.filterwarnings("ignore", message="StreamingHttpResponse must consume synchronous iterators")

application = Bounded(get_asgi_application())
