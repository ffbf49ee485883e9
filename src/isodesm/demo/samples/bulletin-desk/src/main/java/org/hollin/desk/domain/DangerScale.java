package org.hollin.desk.domain;

import java.util.List;

/** The rules by which readings become a degree of danger: a pure computation. */
public class DangerScale {

    public DangerLevel assess(List<SnowReading> readings) {
        int worst = 0;
        for (SnowReading reading : readings) {
            int points = reading.freshSnow() / 10;
            if (reading.isDrifting()) {
                points += 2;
            }
            if (reading.depth() > 180) {
                points++;
            }
            worst = Math.max(worst, points);
        }
        return DangerLevel.values()[Math.min(worst, DangerLevel.values().length - 1)];
    }
}
