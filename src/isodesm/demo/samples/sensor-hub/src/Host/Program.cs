using System;
using Hollin.Hub.Application;

namespace Hollin.Hub.Host
{
    public static class Program
    {
        public static int Main(string[] arguments)
        {
            if (arguments.Length > 0)
            {
                HubSettings.RadioHost = arguments[0];
            }
            Registry registry = new HubHost().Build();
            if (arguments.Length > 1)
            {
                return new FunctionHost(registry).Fire(arguments[1]);
            }
            Console.WriteLine(registry.Get<CollectionRound>().Run() + " readings kept");
            Console.WriteLine(registry.Get<Calibration>().Apply("Hart", 82, 80) + " offset of Hart");
            Console.WriteLine(registry.Get<StationReport>().LineFor("Hart"));
            return 0;
        }
    }
}
