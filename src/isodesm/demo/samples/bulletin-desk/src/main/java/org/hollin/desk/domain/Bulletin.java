package org.hollin.desk.domain;

import java.time.LocalDate;
import java.util.ArrayList;
import java.util.List;

/** The daily bulletin of one valley. */
public class Bulletin {

    private final Valley valley;
    private final LocalDate day;
    private DangerLevel level;
    private String headline = "";
    private final List<String> advice = new ArrayList<>();

    public Bulletin(Valley valley, LocalDate day, DangerLevel level) {
        this.valley = valley;
        this.day = day;
        this.level = level;
    }

    public Valley getValley() {
        return valley;
    }

    public LocalDate getDay() {
        return day;
    }

    public DangerLevel getLevel() {
        return level;
    }

    public void setLevel(DangerLevel level) {
        this.level = level;
    }

    public String getHeadline() {
        return headline;
    }

    public void setHeadline(String headline) {
        this.headline = headline;
    }

    public List<String> getAdvice() {
        return advice;
    }

    public void addAdvice(String line) {
        advice.add(line);
    }
}
