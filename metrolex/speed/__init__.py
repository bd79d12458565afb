"""Speed: tyres, driveline and pulses, calibration against GPS, engine speed, gear position."""
