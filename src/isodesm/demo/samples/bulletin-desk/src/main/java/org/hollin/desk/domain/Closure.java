package org.hollin.desk.domain;

import java.time.LocalDate;

/** A road or slope that is shut on account of a bulletin. */
public class Closure {

    private final String road;
    private final LocalDate from;
    private boolean lifted;

    public Closure(String road, LocalDate from) {
        this.road = road;
        this.from = from;
    }

    public String getRoad() {
        return road;
    }

    public LocalDate getFrom() {
        return from;
    }

    public boolean isLifted() {
        return lifted;
    }

    public void setLifted(boolean lifted) {
        this.lifted = lifted;
    }
}
