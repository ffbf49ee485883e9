package org.hollin.desk.infra;

import java.util.List;

import org.hollin.desk.app.GaugeFeed;
import org.hollin.desk.domain.SnowReading;
import org.hollin.desk.domain.Valley;

/** Readings that the radio net has collected since midnight. */
public class RadioGaugeFeed implements GaugeFeed {

    private final List<SnowReading> heard;

    public RadioGaugeFeed(List<SnowReading> heard) {
        this.heard = List.copyOf(heard);
    }

    @Override
    public List<SnowReading> readingsOf(Valley valley) {
        return heard.stream().filter(reading -> reading.valley().equals(valley.code())).toList();
    }
}
