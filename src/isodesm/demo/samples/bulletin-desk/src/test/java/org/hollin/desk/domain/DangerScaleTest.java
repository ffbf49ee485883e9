package org.hollin.desk.domain;

import java.time.LocalDate;
import java.util.List;

/** Run with assertions on: `java -ea`. */
public class DangerScaleTest {

    public static void main(String[] arguments) {
        DangerScale scale = new DangerScale();
        SnowReading calm = new SnowReading("G1", "ESK", LocalDate.of(2031, 1, 9), 90, 2, 3.0);
        SnowReading storm = new SnowReading("G2", "ESK", LocalDate.of(2031, 1, 9), 210, 25, 19.0);
        assert scale.assess(List.of(calm)) == DangerLevel.LOW;
        assert scale.assess(List.of(calm, storm)) == DangerLevel.VERY_HIGH;
        System.out.println("DangerScaleTest passed");
    }
}
