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
            Console.WriteLine(registry.Get<CollectionRound>().Run() + " readings kept");
            return 0;
        }
    }
}
