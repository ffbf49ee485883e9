package org.hollin.desk.domain;

/** The five degrees of avalanche danger that the service warns of. */
public enum DangerLevel {
    LOW(1), MODERATE(2), CONSIDERABLE(3), HIGH(4), VERY_HIGH(5);

    private final int degree;

    DangerLevel(int degree) {
        this.degree = degree;
    }

    public int degree() {
        return degree;
    }

    public boolean atLeast(DangerLevel other) {
        return degree >= other.degree;
    }
}
