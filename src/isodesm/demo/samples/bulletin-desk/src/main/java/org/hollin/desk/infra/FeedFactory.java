package org.hollin.desk.infra;

import java.util.List;

import org.hollin.desk.app.GaugeFeed;
import org.hollin.desk.domain.SnowReading;

/** Makes the feed that a configuration line asks for. */
public class FeedFactory {

    public GaugeFeed createFileFeed(String folder) {
        return new FileGaugeFeed(folder);
    }

    public GaugeFeed createRadioFeed(List<SnowReading> heard) {
        return new RadioGaugeFeed(heard);
    }
}
