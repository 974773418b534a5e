"""What every area needs: errors, statistics, geometry, sampling and the wording of figures."""
