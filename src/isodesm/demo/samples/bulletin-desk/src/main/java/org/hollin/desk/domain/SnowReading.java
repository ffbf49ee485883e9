package org.hollin.desk.domain;

import java.time.LocalDate;

/** What one gauge reported in one morning. */
public record SnowReading(String gauge, String valley, LocalDate day, int depth, int freshSnow, double wind) {

    public boolean isDrifting() {
        return wind > 12.0 && freshSnow > 5;
    }
}
