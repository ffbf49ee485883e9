package org.hollin.desk.domain;

import java.util.EnumMap;
import java.util.Map;

/** Standing advice for each degree. */
public final class AdviceBook {

    private static final Map<DangerLevel, String> LINES = new EnumMap<>(DangerLevel.class);

    static {
        LINES.put(DangerLevel.LOW, "Travel as usual; mind steep gullies.");
        LINES.put(DangerLevel.MODERATE, "Keep off loaded slopes in the afternoon.");
        LINES.put(DangerLevel.CONSIDERABLE, "Stay below the tree line unless a warden goes with you.");
        LINES.put(DangerLevel.HIGH, "Do not leave marked roads.");
        LINES.put(DangerLevel.VERY_HIGH, "Stay in the village.");
    }

    private AdviceBook() {
    }

    public static String lineFor(DangerLevel level) {
        return LINES.get(level);
    }
}
