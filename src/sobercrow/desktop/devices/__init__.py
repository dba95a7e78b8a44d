"""Bringing in from devices and documents: what there is, and a dialog for each."""

from sobercrow.desktop.devices.devices import Devices

__all__ = ["Devices"]
